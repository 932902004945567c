package org.holtra.service.kinds.http;

import org.holtra.service.credentials.Credential;

/** A line for a shell that posts a first message to an inlet. */
final class ExampleCommand {

    private static final String MESSAGE = "'{\"hello\": 1}'";

    private ExampleCommand() {}

    /** @param credential what senders are checked by, or null; no secret of it is in the line */
    static String of(String inlet, String path, Credential credential) {
        HttpCredential http =
                credential == null ? null : HttpCredential.of(credential).orElse(null);
        String shown = switch (http) {
            case HttpCredential.Bearer ignored -> " -H 'Authorization: Bearer SECRET'";
            case HttpCredential.Basic(String user, String ignored) -> " -u '" + user + ":SECRET'";
            case HttpCredential.Header(String name, String ignored) -> " -H '" + name + ": SECRET'";
            case null, default -> "";
        };
        if (http instanceof HttpCredential.Signature) {
            return "# Senders sign: webhook-id, webhook-timestamp, webhook-signature. This one uses your own access instead:\n"
                    + "holtra send " + inlet + " " + MESSAGE;
        }
        return "curl ORIGIN" + HttpInletServlet.ROOT + "/" + path + shown
                + " \\\n  -H 'Content-Type: application/json' -d " + MESSAGE;
    }
}

package org.holtra.service.kinds.http;

import java.util.Collection;
import org.holtra.service.credentials.Credential;
import org.holtra.service.httpclient.HttpCredential;

/** A line for a shell that posts a first message to an inlet. */
final class ExampleCommand {

    private static final String MESSAGE = "'{\"hello\": 1}'";

    private ExampleCommand() {}

    /**
     * @param methods that the inlet takes, in lower case
     * @param credential what senders are checked by, or null; no secret of it is in the line
     */
    static String of(String inlet, String path, Collection<String> methods, Credential credential) {
        HttpCredential http =
                credential == null ? null : HttpCredential.of(credential).orElse(null);
        String shown = switch (http) {
            case HttpCredential.Bearer ignored -> " -H 'Authorization: Bearer SECRET'";
            case HttpCredential.Basic(String user, String ignored) -> " -u '" + user + ":SECRET'";
            case HttpCredential.Header(String name, String ignored) -> " -H '" + name + ": SECRET'";
            case null, default -> "";
        };
        String query = http instanceof HttpCredential.Query(String name, String ignored) ? "?" + name + "=SECRET" : "";
        String address = "ORIGIN" + HttpInletServlet.ROOT + "/" + path.replace("{secret}", "SECRET");
        if (http instanceof HttpCredential.Signature) {
            return "# Senders sign: webhook-id, webhook-timestamp, webhook-signature. This one uses your own access instead:\n"
                    + "holtra send " + inlet + " " + MESSAGE;
        }
        if (methods.contains("get") && !methods.contains("post")) {
            return "curl '" + address + (query.isEmpty() ? "?" : query + "&") + "hello=1'" + shown;
        }
        return "curl " + (query.isEmpty() ? address : "'" + address + query + "'") + shown
                + " \\\n  -H 'Content-Type: application/json' -d " + MESSAGE;
    }
}

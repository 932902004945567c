package org.holtra.standins.mailbox;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.holtra.standins.http.Loopback;

/** Shows the mail that came: {@code GET /} a page, {@code GET /mails} the same as JSON, the newest first. */
public final class MailboxServer implements AutoCloseable {

    private final Mailbox mailbox;
    private final Loopback server;

    /** @param port 0 for a free one */
    public MailboxServer(Mailbox mailbox, int port) throws IOException {
        this.mailbox = mailbox;
        this.server = new Loopback(port, this::handle);
    }

    public int port() {
        return server.port();
    }

    private void handle(HttpExchange exchange) throws IOException {
        try (exchange) {
            List<Mailbox.Mail> newest = mailbox.mails().reversed();
            switch (exchange.getRequestURI().getPath()) {
                case "/mails" ->
                    Loopback.json(
                            exchange,
                            200,
                            newest.stream()
                                    .map(mail -> Map.of(
                                            "to", mail.to(),
                                            "subject", mail.header("Subject"),
                                            "date", mail.header("Date"),
                                            "text", mail.body()))
                                    .toList());
                case "/" -> Loopback.answer(exchange, 200, "text/html; charset=utf-8", page(newest));
                default -> Loopback.json(exchange, 404, Map.of("error", "there are / and /mails"));
            }
        }
    }

    private static String page(List<Mailbox.Mail> mails) {
        StringBuilder page = new StringBuilder("""
                <!doctype html><html lang="en"><head><meta charset="utf-8"><title>Mailbox</title>
                <meta http-equiv="refresh" content="5"><style>
                body{font:15px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem}
                article{border-top:1px solid #ccc;padding:.6rem 0}h2{font-size:1rem;margin:0}pre{white-space:pre-wrap;margin:.3rem 0 0}
                small{color:#555}</style></head><body><h1>Mailbox of the duty desk</h1>
                """);
        if (mails.isEmpty()) {
            page.append("<p>No mail yet.</p>");
        }
        mails.forEach(mail -> page.append("<article><h2>")
                .append(escaped(mail.header("Subject")))
                .append("</h2><small>")
                .append(escaped(mail.header("Date")))
                .append(", to ")
                .append(escaped(String.join(", ", mail.to())))
                .append("</small><pre>")
                .append(escaped(mail.body().strip()))
                .append("</pre></article>"));
        return page.append("</body></html>").toString();
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;");
    }

    @Override
    public void close() {
        server.close();
    }
}

package org.holtra.service.incidents;

import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** What happened, what was done about it and what became of it, as a page by itself that can be handed on. */
public final class IncidentReport {

    private static final DateTimeFormatter TIME =
            DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss 'UTC'").withZone(ZoneOffset.UTC);

    private final StringBuilder page = new StringBuilder();

    private IncidentReport() {}

    /** What a browser may do with the page: show it. */
    public static final String POLICY = "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none';"
            + " form-action 'none'; frame-ancestors 'none'";

    public static String of(Incident incident, Instant now) {
        return new IncidentReport().write(incident, now);
    }

    private String write(Incident incident, Instant now) {
        Findings last = Incidents.findings(incident.findings());
        Findings before = Incidents.findings(incident.before());
        Findings acted = Incidents.findings(incident.acted());
        page.append("""
                <!doctype html><html lang="en"><meta charset="utf-8"><title>Incident %1$d: %2$s</title>
                <style>body{font:16px/1.5 system-ui,sans-serif;max-width:50rem;margin:3rem auto;padding:0 1rem;color:#1c2321;
                background:#fff}table{border-collapse:collapse;margin:.5rem 0 1.5rem}td,th{text-align:left;padding:.25rem 2rem
                .25rem 0;border-bottom:1px solid #ccd3cf;vertical-align:top}td.n{text-align:right}h2{margin-top:2rem}
                small{color:#59635e}</style>
                <h1>Incident %1$d: %2$s</h1>
                <p>About %3$s, messages that came from %4$s until %5$s.<br><small>Marked by %6$s on %7$s; this report was made
                on %8$s.</small></p>
                """.formatted(
                        incident.number(),
                        text(incident.title()),
                        text(incident.about()),
                        TIME.format(incident.since()),
                        TIME.format(incident.until()),
                        text(incident.byWhom()),
                        TIME.format(incident.marked()),
                        TIME.format(now)));
        if (acted == null) {
            heading("What was found");
            table(found(last));
            page.append("<p>Nothing has been done about it yet.</p>");
        } else {
            heading("What was found");
            table(found(before));
            heading("What was done");
            done(incident, acted);
            heading("How it stands now");
            table(found(last));
        }
        missing(last);
        return page.append("</html>\n").toString();
    }

    private void heading(String title) {
        page.append("<h2>").append(title).append("</h2>");
    }

    private void table(List<Map.Entry<String, String>> rows) {
        page.append("<table>");
        rows.forEach(row -> page.append("<tr><td>")
                .append(row.getKey())
                .append("<td class=n>")
                .append(row.getValue()));
        page.append("</table>");
    }

    private static List<Map.Entry<String, String>> found(Findings findings) {
        return List.of(
                Map.entry("Messages", number(findings.messages())),
                Map.entry("Deliveries that arrived", number(findings.delivered())),
                Map.entry("Deliveries on their way", number(findings.waiting())),
                Map.entry("Messages that could not be read", number(findings.unread())),
                Map.entry("Deliveries given up" + reasons(findings.dead()), number(Findings.total(findings.dead()))),
                Map.entry(
                        "Deliveries missing, since no lane took the message",
                        number(Findings.total(findings.unrouted()))),
                Map.entry(
                        "Messages that never came, by the devices\u2019 own numbers",
                        number(findings.missing().stream()
                                .mapToLong(Findings.Missing::count)
                                .sum())));
    }

    private static String reasons(Map<String, Long> dead) {
        return dead.isEmpty()
                ? ""
                : " <small>("
                        + dead.entrySet().stream()
                                .map(one -> text(one.getKey()) + ": " + number(one.getValue()))
                                .collect(Collectors.joining(", "))
                        + ")</small>";
    }

    private void done(Incident incident, Findings acted) {
        Acts acts = Incidents.acts(incident);
        page.append("<table>");
        if (acts.read()) {
            row(
                    "Messages read again",
                    acted.readable(),
                    number(acted.unread() - acted.readable()) + " still cannot be");
        }
        if (acts.retry()) {
            row("Dead deliveries tried again", Findings.total(acted.dead()), "");
        }
        if (acts.take()) {
            row("Deliveries made that were missing", Findings.total(acted.unrouted()), "");
        }
        if (!acts.wrong().isEmpty()) {
            String revisions = acts.wrong().stream().map(String::valueOf).collect(Collectors.joining(", "));
            row(
                    "Deliveries corrected",
                    Findings.total(acted.revisions()),
                    "made under revision " + revisions + " of the setup");
        }
        page.append("</table>");
        if (acted.overtaken() > 0) {
            page.append("<p>")
                    .append(number(acted.overtaken()))
                    .append(" of these arrived behind later messages of the same devices.</p>");
        }
    }

    private void row(String what, long count, String more) {
        page.append("<tr><td>")
                .append(what)
                .append("<td class=n>")
                .append(number(count))
                .append("<td>")
                .append(more);
    }

    private void missing(Findings findings) {
        if (findings.missing().isEmpty()) {
            return;
        }
        heading("Gaps");
        page.append(
                        "<p>The devices number their messages; these numbers are missing. They cannot be made good here.</p>")
                .append("<table><tr><th>Device<th>Numbers<th>How many<th>Before");
        for (Findings.Missing one : findings.missing()) {
            page.append("<tr><td>")
                    .append(text(one.device()))
                    .append("<td>")
                    .append(one.first() == one.last() ? "" + one.first() : one.first() + " to " + one.last())
                    .append("<td class=n>")
                    .append(number(one.count()))
                    .append("<td>")
                    .append(TIME.format(one.at()));
        }
        page.append("</table>");
    }

    private static String number(long count) {
        return String.format(java.util.Locale.ROOT, "%,d", count);
    }

    private static String text(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;").replace("\"", "&quot;");
    }
}

package org.holtra.standins.desk;

import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;

/** A plain page that shows what the desk took, and how to spoil its mood. */
final class DeskPage {

    private static final DateTimeFormatter TIME =
            DateTimeFormatter.ofPattern("HH:mm:ss").withZone(ZoneOffset.UTC);

    private DeskPage() {}

    static String of(Desk desk) {
        Desk.Count count = desk.count();
        StringBuilder rows = new StringBuilder();
        for (Desk.Order order : desk.orders()) {
            rows.append("<tr><td>")
                    .append(order.number())
                    .append("<td>")
                    .append(TIME.format(order.at()))
                    .append("<td>")
                    .append(order.door())
                    .append("<td>")
                    .append(order.times() == 1 ? "" : order.times() + "×")
                    .append("<td>")
                    .append(order.simulated() ? "simulated" : "")
                    .append("<td><code>")
                    .append(escaped(order.body()))
                    .append("</code>");
        }
        return """
                <!doctype html><html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="3">
                <title>Works desk (a stand-in)</title>
                <style>body{font:15px/1.5 sans-serif;margin:2rem;max-width:70rem;color:#222}table{border-collapse:collapse}
                td,th{text-align:left;padding:.2rem .8rem .2rem 0;border-bottom:1px solid #ddd;vertical-align:top}
                code{font-size:13px;word-break:break-all}</style>
                <h1>Works desk</h1><p>A stand-in. Orders: <b>%s</b>, board: <b>%s</b>.
                It took %d requests, of which %d were new and %d doubles.</p>
                <p>To spoil its mood: <code>curl -d '{"mood":"500","seconds":60}' ADDRESS/mood</code>, with one of %s.</p>
                <table><tr><th>No.<th>UTC<th>door<th>came<th><th>content</tr>%s</table></html>
                """.formatted(
                        desk.mood("orders").kind().word(),
                        desk.mood("board").kind().word(),
                        count.received(),
                        count.distinct(),
                        count.doubles(),
                        Mood.Kind.words(),
                        rows);
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;");
    }
}

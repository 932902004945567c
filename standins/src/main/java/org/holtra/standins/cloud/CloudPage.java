package org.holtra.standins.cloud;

import java.util.Map;
import java.util.stream.Collectors;

/** The cloud's page: what it knows and what it was sent. */
final class CloudPage {

    private CloudPage() {}

    static String of(Cloud cloud) {
        Map<String, Integer> counts = cloud.counts();
        String rows = cloud.devices().reversed().stream()
                .map(one -> "<tr><td>" + one.id() + "<td>" + escaped(one.key()) + "<td>" + escaped(one.name()) + "<td>"
                        + one.shown().get("state") + "<td>" + (one.described() == null ? "" : "described") + "<td>"
                        + counts.getOrDefault(one.key(), 0))
                .collect(Collectors.joining());
        return """
                <!doctype html><html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="3">
                <title>Device cloud (a stand-in)</title>
                <style>body{font:15px/1.5 sans-serif;margin:2rem;max-width:70rem;color:#222}table{border-collapse:collapse}
                td,th{text-align:left;padding:.2rem .8rem .2rem 0;border-bottom:1px solid #ddd}</style>
                <h1>Device cloud</h1><p>A stand-in. It knows <b>%d</b> devices; its token may: %s.</p>
                <p>To grant the rights it lacks: <code>curl -d '{"rights":["devices:read","devices:write","measurements:write"]}'
                ADDRESS/mood</code></p>
                <table><tr><th>id<th>key<th>name<th>state<th><th>measurements</tr>%s</table></html>
                """.formatted(
                        cloud.devices().size(),
                        cloud.granted().isEmpty()
                                ? "nothing"
                                : cloud.granted().stream().map(Right::word).collect(Collectors.joining(", ")),
                        rows);
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;");
    }
}

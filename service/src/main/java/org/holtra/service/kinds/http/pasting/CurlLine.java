package org.holtra.service.kinds.http.pasting;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Reads a {@code curl} command line, which is how many destinations document themselves. */
final class CurlLine {

    private static final Set<String> PASSED_OVER_WITH_VALUE = Set.of(
            "-o",
            "--output",
            "-m",
            "--max-time",
            "--connect-timeout",
            "--retry",
            "-w",
            "--write-out",
            "-A",
            "--user-agent",
            "-e",
            "--referer",
            "-b",
            "--cookie",
            "-c",
            "--cookie-jar",
            "--cacert",
            "-E",
            "--cert",
            "--key",
            "-x",
            "--proxy",
            "-F",
            "--form",
            "-T",
            "--upload-file");
    private static final Set<String> SAID =
            Set.of("-F", "--form", "-b", "--cookie", "-E", "--cert", "--key", "-T", "--upload-file");

    private final List<String> words;
    private final List<Map.Entry<String, String>> headers = new ArrayList<>();
    private final List<String> notes = new ArrayList<>();
    private final List<String> data = new ArrayList<>();
    private String method;
    private String url;
    private String user;
    private boolean inQuery;
    private int at = 1;

    private CurlLine(List<String> words) {
        this.words = words;
    }

    static RequestExample read(String text) {
        return new CurlLine(ShellWords.of(text.strip())).read();
    }

    private RequestExample read() {
        while (at < words.size()) {
            option(words.get(at++));
        }
        String body = data.isEmpty() ? null : String.join("&", data);
        if (inQuery && body != null && url != null) {
            url += (url.contains("?") ? "&" : "?") + body;
            body = null;
        }
        String verb = method != null ? method : body == null ? "GET" : "POST";
        return new RequestExample(verb, url, headers, user, body, notes);
    }

    private void option(String word) {
        int equals = word.startsWith("--") ? word.indexOf('=') : -1;
        String name = equals > 0 ? word.substring(0, equals) : word;
        String inline = equals > 0 ? word.substring(equals + 1) : null;
        // -XPOST, -H'…': a short option may have its value in the same word
        if (word.matches("-[XHdu].+")) {
            name = word.substring(0, 2);
            inline = word.substring(2);
        }
        switch (name) {
            case "-X", "--request" -> method = value(inline);
            case "-H", "--header" -> header(value(inline));
            case "-d", "--data", "--data-raw", "--data-ascii", "--data-binary" -> data.add(value(inline));
            case "--json" -> {
                data.add(value(inline));
                header("Content-Type: application/json");
            }
            case "--data-urlencode" -> data.add(encoded(value(inline)));
            case "-u", "--user" -> user = value(inline);
            case "-G", "--get" -> inQuery = true;
            case "--url" -> url = value(inline);
            default -> other(name, inline);
        }
    }

    private void other(String name, String inline) {
        if (PASSED_OVER_WITH_VALUE.contains(name)) {
            value(inline);
            if (SAID.contains(name)) {
                notes.add("`" + name + "` was passed over");
            }
        } else if (!name.startsWith("-")) {
            url = name;
        }
    }

    private String value(String inline) {
        if (inline != null) {
            return inline;
        }
        return at < words.size() ? words.get(at++) : "";
    }

    private void header(String line) {
        int colon = line.indexOf(':');
        if (colon > 0) {
            headers.add(Map.entry(
                    line.substring(0, colon).strip(), line.substring(colon + 1).strip()));
        }
    }

    private static String encoded(String pair) {
        int equals = pair.indexOf('=');
        String name = equals < 0 ? "" : pair.substring(0, equals + 1);
        return name + URLEncoder.encode(pair.substring(equals + 1), StandardCharsets.UTF_8);
    }
}

package org.holtra.service.kinds.http.pasting;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import org.holtra.service.dispatch.OutletProposal;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** Takes apart what a destination's documentation shows: a command line, a request, an address or an example of a body. */
public final class Pasting {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Set<String> MADE_BY_THE_CLIENT = Set.of(
            "host",
            "content-length",
            "connection",
            "user-agent",
            "accept-encoding",
            "accept",
            "transfer-encoding",
            "expect");
    private static final Pattern SECRET_NAME = Pattern.compile(
            "(?i).*(api[-_]?key|token|secret|passw|signature|\\bsig\\b|auth[-_]?key|access[-_]?key|subscription[-_]?key).*|key|code|sig");
    private static final Pattern SCHEME =
            Pattern.compile("(?i)(bearer|basic|token|apikey|digest|sharedaccesssignature)\\s+");

    private static final Pattern GRANT = Pattern.compile("[?&\\n\"{\\s]grant_type[\"\\s]*[=:]|^grant_type=");

    private static final String AUTHORIZATION = "Authorization";

    private final List<OutletProposal.Slip> slips = new ArrayList<>();
    private final Map<String, Object> to = new LinkedHashMap<>();
    private final Map<String, Object> shape = new LinkedHashMap<>();
    private final Map<String, Object> query = new LinkedHashMap<>();
    private final Map<String, Object> headers = new LinkedHashMap<>();
    private RequestProposal.Login login;

    private Pasting() {}

    /** What can be taken apart; a phrase. */
    public static final String TAKES = "a curl line, an HTTP request, an address that begins with http, or JSON";

    /**
     * @return empty if it is none of what can be taken apart
     * @throws IllegalArgumentException if it is, and cannot be; with a sentence for people
     */
    public static Optional<RequestProposal> apart(String text) {
        String stripped = text == null ? "" : text.strip().replaceFirst("^[$#>]\\s+", "");
        if (stripped.matches("(?s)curl(\\.exe)?\\s.*")) {
            return Optional.of(new Pasting().request("curl", CurlLine.read(stripped)));
        }
        if (!stripped.isEmpty()
                && RawRequest.FIRST_LINE
                        .matcher(stripped.lines().findFirst().orElse(""))
                        .matches()) {
            return Optional.of(new Pasting().request("request", RawRequest.read(stripped)));
        }
        if (stripped.matches("(?i)https?://\\S+")) {
            return Optional.of(
                    new Pasting().request("url", new RequestExample(null, stripped, List.of(), null, null, List.of())));
        }
        if (stripped.startsWith("{") || stripped.startsWith("[")) {
            return Optional.of(new Pasting()
                    .request("json", new RequestExample(null, null, List.of(), null, stripped, List.of())));
        }
        return Optional.empty();
    }

    private RequestProposal request(String type, RequestExample example) {
        refuseTokenRequest(example);
        example.notes().forEach(note -> slip(note, "look whether it matters"));
        if (example.url() != null) {
            address(example.url());
        }
        if (example.method() != null) {
            to.put("method", example.method());
            if (example.method().equals("GET") && example.body() == null && !type.equals("url")) {
                slip("the example asks for something, it sends nothing", "look for the example that writes");
            }
        }
        if (example.user() != null) {
            basic(example.user());
        }
        example.headers().forEach(header -> header(header.getKey(), header.getValue()));
        body(example);
        if (!query.isEmpty()) {
            shape.put("query", query);
        }
        if (!headers.isEmpty()) {
            shape.put("headers", headers);
        }
        return new RequestProposal(type, to, login, shape, slips);
    }

    private void address(String written) {
        String url = written;
        int fragment = url.indexOf('#');
        if (fragment >= 0) {
            url = url.substring(0, fragment);
        }
        int question = url.indexOf('?');
        if (question >= 0) {
            parameters(url.substring(question + 1));
            url = url.substring(0, question);
        }
        java.util.regex.Matcher user =
                Pattern.compile("(?i)(https?://)([^/@]+)@(.*)").matcher(url);
        if (user.matches()) {
            url = user.group(1) + user.group(3);
            slip("a user and a secret stand in the address", "they were taken out into a credential");
            basic(decoded(user.group(2)));
        }
        if (url.matches("(?i)https?://[^/]+/.*/")) {
            slip("the address ends in a slash", "it was taken away; put it back if the destination wants it");
            url = url.substring(0, url.length() - 1);
        } else if (url.matches("(?i)https?://[^/]+/")) {
            url = url.substring(0, url.length() - 1);
        }
        if (url.matches("(?i)https?://[^/]+.*//.*")) {
            slip("there are two slashes in a row in the path", "one was taken away");
            url = url.replaceAll("(?<!:)/{2,}", "/");
        }
        if (url.matches("(?i)http://(?!localhost|127\\.|\\[::1]).*")) {
            slip("the address is not encrypted (http)", "use https if the destination has it");
        }
        if (url.contains("%3F") || url.contains("%3f")) {
            slip(
                    "a question mark is written as %3F: the query was pasted into the path",
                    "paste the address as it was");
        }
        placeholders("the address", url);
        for (String part : url.replaceFirst("(?i)^https?://[^/]+", "").split("/")) {
            if (RandomText.is(part)) {
                slip(
                        "a long random text stands in the path, which looks like a secret",
                        "whoever sees the outlet's address sees it; ask the destination for another way if it has one");
            }
        }
        to.put("url", url);
    }

    private void parameters(String text) {
        for (String pair : text.split("&")) {
            if (pair.isEmpty()) {
                continue;
            }
            int equals = pair.indexOf('=');
            String name = decoded(equals < 0 ? pair : pair.substring(0, equals));
            String value = equals < 0 ? "" : decoded(pair.substring(equals + 1));
            if (SECRET_NAME.matcher(name).matches() || RandomText.is(value)) {
                slip("a secret stands in the address: " + name, "it was taken out into a credential");
                login(new RequestProposal.Login("query", name, secret(value)));
            } else {
                placeholders("the parameter " + name, value);
                query.put(name, value);
            }
        }
    }

    private void header(String name, String value) {
        String lower = name.toLowerCase(Locale.ROOT);
        if (lower.equals("authorization")) {
            authorization(value);
        } else if (MADE_BY_THE_CLIENT.contains(lower) || lower.equals("content-type")) {
            return;
        } else if (SECRET_NAME.matcher(name).matches() || RandomText.is(value)) {
            login(new RequestProposal.Login("header", name, secret(value)));
        } else {
            placeholders("the header " + name, value);
            headers.put(name, value);
        }
    }

    private void authorization(String value) {
        String rest = value;
        String scheme = null;
        java.util.regex.Matcher matcher = SCHEME.matcher(rest);
        while (matcher.lookingAt()) {
            String word = rest.substring(0, matcher.end()).strip();
            if (scheme != null) {
                slip("the scheme word stands twice: " + scheme + " " + word, "one is enough, and one was kept");
            }
            scheme = scheme == null ? word : scheme;
            rest = rest.substring(matcher.end());
            matcher = SCHEME.matcher(rest);
        }
        if (scheme == null) {
            slip(
                    "Authorization has no scheme word such as Bearer",
                    "it was taken as a header of its own; make it a bearer credential if the destination wants that word");
            login(new RequestProposal.Login("header", AUTHORIZATION, secret(rest)));
        } else if (scheme.equalsIgnoreCase("bearer")) {
            login(new RequestProposal.Login("bearer", "", secret(rest)));
        } else if (scheme.equalsIgnoreCase("basic")) {
            basic(rest);
        } else {
            login(new RequestProposal.Login(
                    "header", AUTHORIZATION, secret(rest).isEmpty() ? "" : scheme + " " + rest));
        }
    }

    /** @param text {@code user:password}, or that in base64 */
    private void basic(String text) {
        String plain = text;
        if (!text.contains(":")) {
            try {
                plain = new String(Base64.getDecoder().decode(text.strip()), StandardCharsets.UTF_8);
            } catch (IllegalArgumentException e) {
                slip("what follows Basic is not base64", "enter user and password yourself");
                plain = ":";
            }
        }
        int colon = plain.indexOf(':');
        String user = colon < 0 ? plain : plain.substring(0, colon);
        login(new RequestProposal.Login(
                "basic", Placeholders.only(user) ? "" : user, colon < 0 ? "" : secret(plain.substring(colon + 1))));
    }

    /** An outlet shows one credential: Authorization before others, else the first. The other is never kept in plain text. */
    private void login(RequestProposal.Login found) {
        if (login == null) {
            login = found;
            return;
        }
        boolean better = isAuthorization(found) && !isAuthorization(login);
        RequestProposal.Login left = better ? login : found;
        login = better ? found : login;
        slip(
                "the example shows two secrets: " + place(login) + " and " + place(left),
                place(login) + " was taken as the credential, and " + place(left)
                        + " was left out; choose the other if that is the right one");
    }

    private static boolean isAuthorization(RequestProposal.Login one) {
        return one.form().equals("bearer")
                || one.form().equals("basic")
                || one.name().equals(AUTHORIZATION);
    }

    private static String place(RequestProposal.Login one) {
        return switch (one.form()) {
            case "bearer", "basic" -> "the header Authorization";
            case "query" -> "the parameter " + one.name();
            default -> "the header " + one.name();
        };
    }

    /** @throws IllegalArgumentException if it asks for a token (RFC 6749, section 4) */
    private static void refuseTokenRequest(RequestExample example) {
        String all = example.url() + "\n" + example.body();
        if (GRANT.matcher(all).find()) {
            throw new IllegalArgumentException(
                    "This example asks for an access token (OAuth 2.0, grant_type) and sends no"
                            + " data. Paste the request that sends data; its token stands in the header Authorization.");
        }
    }

    private void body(RequestExample example) {
        if (example.body() == null) {
            if (example.url() != null && example.method() != null) {
                shape.put("format", "none");
            }
            return;
        }
        String type = example.header("Content-Type") == null
                ? ""
                : example.header("Content-Type").toLowerCase(Locale.ROOT);
        String text = example.body().strip();
        if (text.startsWith("{") || text.startsWith("[")) {
            json(text, type, example.url() != null);
        } else if (type.contains("x-www-form-urlencoded")
                || type.isEmpty() && text.matches("[^\\s=&]+=[^&]*(&[^\\s=&]+=[^&]*)*")) {
            Map<String, Object> fields = new LinkedHashMap<>();
            for (String pair : text.split("&")) {
                int equals = pair.indexOf('=');
                fields.put(
                        decoded(equals < 0 ? pair : pair.substring(0, equals)),
                        equals < 0 ? "" : decoded(pair.substring(equals + 1)));
            }
            placeholders("the body", text);
            shape.put("format", "form");
            shape.put("body", fields);
        } else {
            placeholders("the body", text);
            shape.put("format", "text");
            if (!type.isEmpty() && !type.startsWith("text/plain")) {
                shape.put("contentType", example.header("Content-Type"));
            }
            shape.put("body", text.replace("${", "$${"));
        }
    }

    private void json(String text, String type, boolean ofRequest) {
        try {
            Object tree = JSON.readValue(text, Object.class);
            if (ofRequest && !type.contains("json")) {
                slip("the body is JSON, and no content type says so", "application/json is sent");
            } else if (type.contains("json") && !type.startsWith("application/json")) {
                shape.put("contentType", type);
            }
            placeholders("the body", text);
            shape.put("body", escaped(tree));
        } catch (JacksonException e) {
            slip(
                    "the body is not JSON: " + e.getOriginalMessage().replaceAll("\\s+", " ") + " at line "
                            + e.getLocation().getLineNr() + ", column "
                            + e.getLocation().getColumnNr(),
                    "mend it and paste it again; a comma too many or too few is usual, and so is a placeholder without quotes");
        }
    }

    private static Object escaped(Object tree) {
        return switch (tree) {
            case String text -> text.replace("${", "$${");
            case Map<?, ?> map -> {
                Map<String, Object> fields = LinkedHashMap.newLinkedHashMap(map.size());
                map.forEach((name, value) ->
                        fields.put(name.toString().startsWith("$") ? "$" + name : name.toString(), escaped(value)));
                yield fields;
            }
            case List<?> list -> list.stream().map(Pasting::escaped).toList();
            case null, default -> tree;
        };
    }

    private void placeholders(String where, String text) {
        Set<String> found = Placeholders.in(text);
        if (!found.isEmpty()) {
            slip("a placeholder is left in " + where + ": " + String.join(", ", found), "put your own there");
        }
    }

    /** Empty where the example shows none. */
    private String secret(String value) {
        if (Placeholders.only(value) || value.matches("(?i)\\**|•*|<.*>|secret|password|token|key")) {
            slip("the example shows no secret, only a placeholder for one", "enter your own");
            return "";
        }
        return value;
    }

    private void slip(String what, String mend) {
        slips.add(new OutletProposal.Slip(what, mend));
    }

    private static String decoded(String text) {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return text; // a lone percent sign is what it is
        }
    }
}

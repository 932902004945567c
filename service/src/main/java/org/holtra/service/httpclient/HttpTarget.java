package org.holtra.service.httpclient;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.DurationText;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.SecretMask;
import org.holtra.service.tls.ClientTls;

/** Where and how an http outlet sends, ready to be joined with a delivery's content. */
public record HttpTarget(
        String url,
        String method,
        List<Map.Entry<String, String>> query,
        Map<String, String> headers,
        HttpCredential credential,
        SecretMask mask,
        Duration timeout) {

    public static final String MASK = SecretMask.MASK;

    private static final Duration USUAL_TIMEOUT = Duration.ofSeconds(10);

    public static HttpTarget of(Outlet outlet, Credential credential) {
        Map<String, Object> to = outlet.to();
        HttpCredential http =
                credential == null ? null : HttpCredential.of(credential).orElseThrow(() -> unfit(credential));
        List<Map.Entry<String, String>> query = new ArrayList<>();
        texts(to.get("query")).forEach((name, value) -> query.add(Map.entry(encode(name), encode(value))));
        return new HttpTarget(
                (String) to.get("url"),
                to.get("method") instanceof String method ? method : "POST",
                List.copyOf(query),
                texts(to.get("headers")),
                http,
                mask(credential, http),
                to.get("timeout") instanceof String timeout ? DurationText.parse(timeout) : USUAL_TIMEOUT);
    }

    /** The method of a request: the lane's, or the outlet's. */
    public String method(Content content) {
        String said = content.envelope().text(HttpShape.METHOD);
        return said.isEmpty() ? method : said;
    }

    /**
     * The same with a credential in place of the outlet's; this one if that is null.
     *
     * @throws IllegalArgumentException if HTTP does not know its form
     */
    public HttpTarget presenting(Credential other) {
        if (other == null) {
            return this;
        }
        HttpCredential http = HttpCredential.of(other).orElseThrow(() -> unfit(other));
        return new HttpTarget(url, method, query, headers, http, mask.and(mask(other, http)), timeout);
    }

    /** The address of a request: the outlet's, the lane's path, and the query of both. */
    public String address(Content content) {
        StringBuilder address = new StringBuilder(joined(url, content.envelope().text(HttpShape.PATH)));
        List<Map.Entry<String, String>> parameters = new ArrayList<>(query);
        parameters.addAll(content.envelope().named(HttpShape.QUERY));
        if (credential instanceof HttpCredential.Query(String name, String value)) {
            parameters.add(Map.entry(encode(name), encode(value)));
        }
        if (!parameters.isEmpty()) {
            address.append(content.envelope().text(HttpShape.PATH).contains("?") ? '&' : '?')
                    .append(parameters.stream()
                            .map(parameter -> parameter.getKey() + "=" + parameter.getValue())
                            .collect(Collectors.joining("&")));
        }
        return address.toString();
    }

    /** All headers but those that the client makes itself. */
    public Map<String, String> headers(Content content) {
        Map<String, String> all = new LinkedHashMap<>(headers);
        content.envelope().named(HttpShape.HEADERS).forEach(header -> all.put(header.getKey(), header.getValue()));
        switch (credential) {
            case HttpCredential.Bearer(String token) -> all.put("Authorization", "Bearer " + token);
            case HttpCredential.Basic(String user, String password) ->
                all.put("Authorization", "Basic " + HttpCredential.Basic.encoded(user, password));
            case HttpCredential.Header(String name, String value) -> all.put(name, value);
            case null, default -> {}
        }
        return all;
    }

    /**
     * How it speaks TLS.
     *
     * @param authority in PEM, trusted beside those of this machine; or null
     * @throws IllegalArgumentException if it, or the certificate that is shown, cannot be read
     */
    public ClientTls tls(String authority) {
        try {
            return credential instanceof HttpCredential.Certificate(String certificate, String key)
                    ? ClientTls.of(authority, certificate, key)
                    : ClientTls.of(authority, null, null);
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException("the outlet's authority or certificate: " + e.getMessage(), e);
        }
    }

    /** A text in which no secret of the credential is left. */
    public String masked(String text) {
        return mask.masked(text);
    }

    /** The credential was saved anew in another form since the setup was checked. */
    private static IllegalArgumentException unfit(Credential credential) {
        return new IllegalArgumentException("its credential has the form " + credential.form()
                + ", which http does not know; save it as bearer, basic, header, query or certificate");
    }

    private static SecretMask mask(Credential credential, HttpCredential http) {
        if (credential == null) {
            return new SecretMask(List.of());
        }
        List<String> secrets = new ArrayList<>(credential.secrets());
        if (http instanceof HttpCredential.Basic(String user, String password)) {
            secrets.add(HttpCredential.Basic.encoded(user, password));
        }
        return new SecretMask(secrets);
    }

    private static String joined(String base, String path) {
        if (path.isEmpty() || path.startsWith("?")) {
            return base + path;
        }
        String left = base.endsWith("/") ? base.substring(0, base.length() - 1) : base;
        return left + (path.startsWith("/") ? path : "/" + path);
    }

    private static Map<String, String> texts(Object fields) {
        Map<String, String> texts = new LinkedHashMap<>();
        if (fields instanceof Map<?, ?> map) {
            map.forEach((name, value) -> texts.put(name.toString(), String.valueOf(value)));
        }
        return texts;
    }

    private static String encode(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }
}

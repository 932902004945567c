package org.holtra.standins.authorization;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.net.URLDecoder;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.PublicKey;
import java.security.Signature;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import org.holtra.standins.http.Loopback;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * An authorization server (OAuth 2.0).
 *
 * <ul>
 *   <li>{@code GET /.well-known/oauth-authorization-server}: where everything is (RFC 8414);
 *   <li>{@code GET /authorize}: the consent page, with PKCE (RFC 7636); {@code POST /authorize}: what the owner said;
 *   <li>{@code POST /token}: client credentials, authorization code, refresh token, JWT assertion (RFC 7523);
 *   <li>{@code POST /mood}: {@code {"lives": 5}} seconds, {@code {"revoke": "OWNER"}}, {@code {"forget": true}}, {@code {"fail":
 *       503, "times": 2}}, {@code {"slow": 500}} in milliseconds;
 *   <li>{@code GET /count}: how many tokens were given, and how many of them refreshed.
 * </ul>
 */
public final class AuthorizationServer implements AutoCloseable {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final String ASSERTION = "urn:ietf:params:oauth:grant-type:jwt-bearer";

    private final Authorization authorization;
    private final List<String> owners;
    private final Loopback server;
    private final AtomicInteger failures = new AtomicInteger();
    private volatile int failure = 503;
    private volatile int slowMillis;

    /**
     * @param port 0 for a free one
     * @param owners who may consent; the consent page asks who sits before it
     */
    public AuthorizationServer(Authorization authorization, int port, List<String> owners) throws IOException {
        this.authorization = authorization;
        this.owners = List.copyOf(owners);
        this.server = new Loopback(port, this::handle);
    }

    public int port() {
        return server.port();
    }

    public String address() {
        return "http://127.0.0.1:" + server.port();
    }

    /** So many requests for a token are answered with this status. */
    public void fail(int status, int times) {
        failure = status;
        failures.set(times);
    }

    public void answerAfter(int millis) {
        slowMillis = millis;
    }

    private void handle(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath();
        boolean post = exchange.getRequestMethod().equals("POST");
        try (exchange) {
            if (path.equals("/.well-known/oauth-authorization-server")) {
                Loopback.json(
                        exchange,
                        200,
                        Map.of(
                                "issuer",
                                address(),
                                "authorization_endpoint",
                                address() + "/authorize",
                                "token_endpoint",
                                address() + "/token",
                                "code_challenge_methods_supported",
                                List.of("S256")));
            } else if (path.equals("/authorize") && post) {
                answered(exchange);
            } else if (path.equals("/authorize")) {
                consentPage(exchange);
            } else if (path.equals("/token") && post) {
                token(exchange);
            } else if (path.equals("/mood") && post) {
                mood(exchange);
            } else if (path.equals("/count")) {
                Loopback.json(
                        exchange, 200, Map.of("given", authorization.given(), "refreshed", authorization.refreshed()));
            } else {
                Loopback.json(exchange, 404, Map.of("error", "there is nothing at " + path));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void consentPage(HttpExchange exchange) throws IOException {
        Map<String, String> asked = pairs(exchange.getRequestURI().getRawQuery());
        if (!authorization.knows(asked.getOrDefault("client_id", ""))
                || !"S256".equals(asked.get("code_challenge_method"))) {
            Loopback.answer(
                    exchange,
                    400,
                    "text/html; charset=utf-8",
                    "<p>This client is not known here, or shows no challenge.");
            return;
        }
        StringBuilder hidden = new StringBuilder();
        asked.forEach((name, value) -> hidden.append("<input type=hidden name=\"")
                .append(escaped(name))
                .append("\" value=\"")
                .append(escaped(value))
                .append("\">"));
        StringBuilder choice = new StringBuilder();
        owners.forEach(owner -> choice.append("<option>").append(escaped(owner)).append("</option>"));
        Loopback.answer(exchange, 200, "text/html; charset=utf-8", """
                <!doctype html><html lang="en"><meta charset="utf-8"><title>Consent (a stand-in)</title>
                <style>body{font:16px/1.5 sans-serif;margin:3rem auto;max-width:32rem;color:#222}
                button,select{font:inherit;padding:.3rem .8rem;margin-right:.6rem}</style>
                <h1>Works desk</h1><p><b>%s</b> asks for: <b>%s</b></p>
                <form method=post action=/authorize>%s<p><label>You are <select name=owner>%s</select></label></p>
                <button name=said value=yes>Allow</button><button name=said value=no>Deny</button></form></html>
                """.formatted(
                        escaped(asked.get("client_id")), escaped(asked.getOrDefault("scope", "")), hidden, choice));
    }

    private void answered(HttpExchange exchange) throws IOException {
        Map<String, String> said = form(exchange);
        String redirect = said.getOrDefault("redirect_uri", "");
        String back =
                redirect + (redirect.contains("?") ? "&" : "?") + "state=" + encoded(said.getOrDefault("state", ""));
        if ("yes".equals(said.get("said"))) {
            back += "&code="
                    + encoded(authorization.consent(
                            said.get("owner"),
                            said.get("client_id"),
                            said.getOrDefault("scope", ""),
                            said.get("code_challenge"),
                            redirect));
        } else {
            back += "&error=access_denied&error_description=" + encoded("the owner said no");
        }
        exchange.getResponseHeaders().set("Location", back);
        exchange.sendResponseHeaders(303, -1);
    }

    private void token(HttpExchange exchange) throws IOException, InterruptedException {
        Map<String, String> asked = form(exchange);
        if (slowMillis > 0) {
            Thread.sleep(slowMillis);
        }
        if (failures.getAndUpdate(left -> Math.max(0, left - 1)) > 0) {
            Loopback.json(exchange, failure, Map.of("error", "temporarily_unavailable"));
            return;
        }
        String grant = asked.getOrDefault("grant_type", "");
        if (grant.equals(ASSERTION)) {
            byAssertion(exchange, asked);
            return;
        }
        Optional<String> client = client(exchange, asked);
        if (client.isEmpty()) {
            refuse(exchange, 401, "invalid_client", "no client has this id and secret");
            return;
        }
        switch (grant) {
            case "client_credentials" ->
                Loopback.json(
                        exchange, 200, authorization.give(null, client.get(), asked.getOrDefault("scope", ""), false));
            case "authorization_code" ->
                answer(
                        exchange,
                        authorization.exchange(
                                asked.get("code"),
                                client.get(),
                                asked.getOrDefault("code_verifier", ""),
                                asked.getOrDefault("redirect_uri", "")));
            case "refresh_token" -> answer(exchange, authorization.refresh(asked.get("refresh_token"), client.get()));
            default -> refuse(exchange, 400, "unsupported_grant_type", "no token is given for " + grant);
        }
    }

    private static void answer(HttpExchange exchange, Optional<Map<String, Object>> given) throws IOException {
        if (given.isPresent()) {
            Loopback.json(exchange, 200, given.get());
        } else {
            refuse(exchange, 400, "invalid_grant", "it was used, revoked, or is none");
        }
    }

    private static void refuse(HttpExchange exchange, int status, String error, String words) throws IOException {
        Loopback.json(exchange, status, Map.of("error", error, "error_description", words));
    }

    /** By HTTP basic authentication, or by its id alone where it is public. */
    private Optional<String> client(HttpExchange exchange, Map<String, String> asked) {
        String header = exchange.getRequestHeaders().getFirst("Authorization");
        if (header != null && header.startsWith("Basic ")) {
            String[] both =
                    new String(Base64.getDecoder().decode(header.substring(6)), StandardCharsets.UTF_8).split(":", 2);
            String id = URLDecoder.decode(both[0], StandardCharsets.UTF_8);
            String secret = both.length < 2 ? "" : URLDecoder.decode(both[1], StandardCharsets.UTF_8);
            return authorization.isClient(id, secret) ? Optional.of(id) : Optional.empty();
        }
        String id = asked.getOrDefault("client_id", "");
        return authorization.isClient(id, "") ? Optional.of(id) : Optional.empty();
    }

    private void byAssertion(HttpExchange exchange, Map<String, String> asked) throws IOException {
        String[] parts = asked.getOrDefault("assertion", "").split("\\.");
        if (parts.length != 3) {
            refuse(exchange, 400, "invalid_grant", "the assertion is no JWT");
            return;
        }
        JsonNode claims = JSON.readTree(Base64.getUrlDecoder().decode(parts[1]));
        String issuer = claims.path("iss").asString("");
        Instant now = Instant.now();
        boolean inTime = now.isBefore(Instant.ofEpochSecond(claims.path("exp").asLong()))
                && now.plusSeconds(30)
                        .isAfter(Instant.ofEpochSecond(claims.path("iat").asLong()));
        boolean signed =
                authorization.signerOf(issuer).map(key -> isSigned(parts, key)).orElse(false);
        if (signed && inTime && claims.path("aud").toString().contains(address() + "/token")) {
            Loopback.json(
                    exchange,
                    200,
                    authorization.give(
                            null, claims.path("sub").asString(issuer), asked.getOrDefault("scope", ""), false));
        } else {
            refuse(
                    exchange,
                    400,
                    "invalid_grant",
                    signed ? "the assertion is out of its time or for another" : "bad signature");
        }
    }

    private static boolean isSigned(String[] parts, PublicKey key) {
        try {
            Signature signature = Signature.getInstance("SHA256withRSA");
            signature.initVerify(key);
            signature.update((parts[0] + "." + parts[1]).getBytes(StandardCharsets.US_ASCII));
            return signature.verify(Base64.getUrlDecoder().decode(parts[2]));
        } catch (GeneralSecurityException e) {
            return false;
        }
    }

    private void mood(HttpExchange exchange) throws IOException {
        JsonNode wish = JSON.readTree(exchange.getRequestBody().readAllBytes());
        if (wish.has("lives")) {
            authorization.setLives(Duration.ofSeconds(wish.get("lives").asLong()));
        }
        if (wish.has("revoke")) {
            authorization.revoke(wish.get("revoke").asString());
        }
        if (wish.path("forget").asBoolean(false)) {
            authorization.forgetTokens();
        }
        if (wish.has("fail")) {
            fail(wish.get("fail").asInt(), wish.path("times").asInt(1));
        }
        if (wish.has("slow")) {
            answerAfter(wish.get("slow").asInt());
        }
        Loopback.json(exchange, 200, Map.of("given", authorization.given()));
    }

    private static Map<String, String> form(HttpExchange exchange) throws IOException {
        return pairs(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
    }

    private static Map<String, String> pairs(String text) {
        Map<String, String> pairs = new HashMap<>();
        if (text != null) {
            for (String pair : text.split("&")) {
                String[] sides = pair.split("=", 2);
                if (sides.length == 2) {
                    pairs.put(
                            URLDecoder.decode(sides[0], StandardCharsets.UTF_8),
                            URLDecoder.decode(sides[1], StandardCharsets.UTF_8));
                }
            }
        }
        return pairs;
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;").replace("\"", "&quot;");
    }

    @Override
    public void close() {
        server.close();
    }
}

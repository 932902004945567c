package org.holtra.service.tokens;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.config.ConnectionConfig;
import org.apache.hc.client5.http.config.RequestConfig;
import org.apache.hc.client5.http.entity.UrlEncodedFormEntity;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.client5.http.utils.DateUtils;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpHeaders;
import org.apache.hc.core5.http.NameValuePair;
import org.apache.hc.core5.http.message.BasicNameValuePair;
import org.apache.hc.core5.util.Timeout;
import org.holtra.service.credentials.SecretMask;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.reach.Reach;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.tls.ClientTls;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Asks authorization servers for tokens (RFC 6749), and tells their refusals apart. */
@Component
class TokenEndpoint implements AutoCloseable {

    private static final Timeout PATIENCE = Timeout.ofSeconds(10);
    private static final int LONGEST_ANSWER = 65_536;
    private static final Duration CLOCKS_DIFFER = Duration.ofSeconds(60);
    private static final JsonMapper JSON = JsonMapper.shared();

    private final CloseableHttpClient client;
    private final InstantSource clock;

    TokenEndpoint(HoltraSettings settings, InstantSource clock) {
        this.clock = clock;
        this.client = HttpClients.custom()
                .setConnectionManager(PoolingHttpClientConnectionManagerBuilder.create()
                        .setTlsSocketStrategy(ClientTls.of(null, null, null).strategy())
                        .setDnsResolver(new CheckedAddresses(Reach.of(settings.outletsReach())))
                        .setDefaultConnectionConfig(ConnectionConfig.custom()
                                .setConnectTimeout(PATIENCE)
                                .setSocketTimeout(PATIENCE)
                                .build())
                        .build())
                .setDefaultRequestConfig(
                        RequestConfig.custom().setResponseTimeout(PATIENCE).build())
                .disableAutomaticRetries()
                .disableRedirectHandling()
                .disableCookieManagement()
                .setUserAgent("Holtra")
                .build();
    }

    /**
     * @param basic the client id and its secret, to be shown by HTTP basic authentication; null for neither
     * @param secrets to be masked in what is told of a failure
     */
    TokenAnswer ask(String address, Map<String, String> form, String basic, List<String> secrets) throws TokenFailure {
        SecretMask mask = new SecretMask(secrets);
        HttpPost request = new HttpPost(address);
        List<NameValuePair> pairs = new ArrayList<>();
        form.forEach((name, value) -> {
            if (value != null && !value.isEmpty()) {
                pairs.add(new BasicNameValuePair(name, value));
            }
        });
        request.setEntity(new UrlEncodedFormEntity(pairs, StandardCharsets.UTF_8));
        request.setHeader("Accept", "application/json");
        if (basic != null) {
            request.setHeader("Authorization", "Basic " + basic);
        }
        Answer answer;
        try {
            answer = client.execute(request, TokenEndpoint::read);
        } catch (IOException e) {
            throw new TokenFailure(
                    TokenFailure.Kind.LATER,
                    "the authorization server at " + address + " cannot be asked: " + mask.masked(words(e)));
        }
        if (answer.status / 100 == 2) {
            return token(answer, address, mask);
        }
        throw refused(answer, form.get("grant_type"), mask);
    }

    private record Answer(int status, Instant date, JsonNode body) {}

    private static Answer read(ClassicHttpResponse response) throws IOException {
        Header date = response.getFirstHeader(HttpHeaders.DATE);
        byte[] body = response.getEntity() == null
                ? new byte[0]
                : response.getEntity().getContent().readNBytes(LONGEST_ANSWER);
        JsonNode json;
        try {
            json = JSON.readTree(body);
        } catch (JacksonException e) {
            json = JSON.missingNode(); // told by its status
        }
        return new Answer(response.getCode(), date == null ? null : DateUtils.parseStandardDate(date.getValue()), json);
    }

    private static String words(IOException failure) {
        return failure.getMessage() == null ? failure.getClass().getSimpleName() : failure.getMessage();
    }

    private static TokenAnswer token(Answer answer, String address, SecretMask mask) throws TokenFailure {
        String token = answer.body.path("access_token").asString("");
        if (token.isEmpty()) {
            throw new TokenFailure(
                    TokenFailure.Kind.BLOCKED,
                    "the answer of " + mask.masked(address) + " has no access_token: is this the token address?");
        }
        long seconds = answer.body.path("expires_in").asLong(0);
        return new TokenAnswer(
                token,
                seconds > 0 ? Duration.ofSeconds(seconds) : null,
                answer.body.path("refresh_token").asString(null),
                answer.body.path("scope").asString(null));
    }

    private TokenFailure refused(Answer answer, String grantType, SecretMask mask) {
        String error = answer.body.path("error").asString("");
        String said = mask.masked(answer.body.path("error_description").asString(""));
        String told = "the authorization server answered " + answer.status
                + (error.isEmpty() ? "" : ", " + error)
                + (said.isEmpty() ? "" : ": " + said);
        if (answer.status == 429 || answer.status >= 500) {
            return new TokenFailure(TokenFailure.Kind.LATER, told);
        }
        String clocks = clocks(answer.date);
        return switch (error) {
            case "invalid_client" ->
                new TokenFailure(
                        TokenFailure.Kind.BLOCKED,
                        told
                                + ". It does not take the client id or its secret; where there are two secrets, try the other");
            case "invalid_grant" ->
                isGrant(grantType)
                        ? new TokenFailure(TokenFailure.Kind.REVOKED, told + ". The grant was revoked, or has expired")
                        : new TokenFailure(
                                TokenFailure.Kind.BLOCKED,
                                told + ". It does not take the assertion: "
                                        + (clocks.isEmpty()
                                                ? "the key is not the one it knows, or issuer, subject or audience are others"
                                                : clocks));
            case "invalid_scope" ->
                new TokenFailure(
                        TokenFailure.Kind.BLOCKED, told + ". It does not grant the scopes that were asked for");
            case "invalid_target" ->
                new TokenFailure(TokenFailure.Kind.BLOCKED, told + ". The client has no access to this audience");
            default ->
                new TokenFailure(TokenFailure.Kind.BLOCKED, told + (clocks.isEmpty() ? "" : ". Note that " + clocks));
        };
    }

    private static boolean isGrant(String grantType) {
        return "refresh_token".equals(grantType) || "authorization_code".equals(grantType);
    }

    /** Whether this machine's clock and the server's tell different times; empty if they do not, or that is not known. */
    private String clocks(Instant theirs) {
        if (theirs == null) {
            return "";
        }
        Duration apart = Duration.between(clock.instant(), theirs);
        return apart.abs().compareTo(CLOCKS_DIFFER) < 0
                ? ""
                : "this machine's clock is " + apart.abs().toSeconds() + " s "
                        + (apart.isNegative() ? "ahead of" : "behind") + " the server's";
    }

    @Override
    public void close() throws IOException {
        client.close();
    }
}

package org.holtra.cli;

import java.io.IOException;
import java.io.InputStream;
import java.net.HttpURLConnection;
import java.net.SocketTimeoutException;
import java.net.URI;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.stream.Collectors;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.JsonNodeFactory;

/**
 * The service's HTTP API. A call either gives what it should or fails with a sentence that says why not. It goes by the
 * platform's older client, which is ready in a twentieth of the newer one's time: a command makes one call and ends.
 */
final class Api {

    /** Made when first needed: most commands only read. */
    private static final class Writer {
        private static final JsonMapper JSON = JsonMapper.shared();
    }

    private static final int CONNECT_MILLIS = 5_000;
    private static final int READ_MILLIS = 60_000;
    private static final int SOON_MILLIS = 10_000;

    private final String server;
    private final String key;

    /** @param key null if none is known */
    Api(String server, String key) {
        this.server = server.endsWith("/") ? server.substring(0, server.length() - 1) : server;
        this.key = key;
    }

    static JsonMapper mapper() {
        return Writer.JSON;
    }

    /** A path with its query; parameters that are null are left out. */
    static String path(String path, Map<String, ?> parameters) {
        String query = parameters.entrySet().stream()
                .filter(parameter -> parameter.getValue() != null)
                .map(parameter ->
                        parameter.getKey() + "=" + encode(parameter.getValue().toString()))
                .collect(Collectors.joining("&"));
        return query.isEmpty() ? path : path + "?" + query;
    }

    static String encode(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }

    JsonNode get(String path) {
        return json(exchange("GET", path, null, null));
    }

    /** The same, for what is answered at once if at all. */
    JsonNode getSoon(String path) {
        HttpURLConnection connection = open("GET", path);
        connection.setReadTimeout(SOON_MILLIS);
        return json(exchange(connection, null, null));
    }

    String text(String path) {
        return new String(exchange("GET", path, null, null), StandardCharsets.UTF_8);
    }

    JsonNode post(String path, JsonNode body) {
        return post(path, "application/json", Writer.JSON.writeValueAsBytes(body));
    }

    JsonNode post(String path, String contentType, byte[] body) {
        return json(exchange("POST", path, contentType, body));
    }

    JsonNode put(String path, JsonNode body) {
        return json(exchange("PUT", path, "application/json", Writer.JSON.writeValueAsBytes(body)));
    }

    void delete(String path) {
        exchange("DELETE", path, null, null);
    }

    /** A stream of server-sent events, open until it is closed. */
    InputStream stream(String path) {
        HttpURLConnection connection = open("GET", path);
        connection.setReadTimeout(0);
        connection.setRequestProperty("Accept", "text/event-stream");
        try {
            if (connection.getResponseCode() / 100 != 2) {
                throw failure(connection.getResponseCode(), answer(connection));
            }
            return connection.getInputStream();
        } catch (IOException e) {
            throw unreachable(e);
        }
    }

    private byte[] exchange(String method, String path, String contentType, byte[] body) {
        return exchange(open(method, path), contentType, body);
    }

    private byte[] exchange(HttpURLConnection connection, String contentType, byte[] body) {
        try {
            if (body != null) {
                connection.setDoOutput(true);
                connection.setRequestProperty("Content-Type", contentType);
                connection.setFixedLengthStreamingMode(body.length);
                connection.getOutputStream().write(body);
            }
            int status = connection.getResponseCode();
            byte[] answer = answer(connection);
            if (status / 100 != 2) {
                throw failure(status, answer);
            }
            return answer;
        } catch (SocketTimeoutException e) {
            throw silent(connection.getReadTimeout(), e);
        } catch (IOException e) {
            throw unreachable(e);
        }
    }

    private HttpURLConnection open(String method, String path) {
        try {
            HttpURLConnection connection =
                    (HttpURLConnection) URI.create(server + path).toURL().openConnection();
            connection.setRequestMethod(method);
            connection.setInstanceFollowRedirects(false);
            connection.setConnectTimeout(CONNECT_MILLIS);
            connection.setReadTimeout(READ_MILLIS);
            if (key != null) {
                connection.setRequestProperty("Authorization", "Bearer " + key);
            }
            return connection;
        } catch (IOException | IllegalArgumentException | ClassCastException e) {
            throw new ApiFailure(
                    Holtra.UNREACHABLE,
                    "`" + server + "` is not the address of a service; one begins with http:// or https://.");
        }
    }

    private static byte[] answer(HttpURLConnection connection) throws IOException {
        InputStream stream =
                connection.getResponseCode() < 400 ? connection.getInputStream() : connection.getErrorStream();
        if (stream == null) {
            return new byte[0];
        }
        try (stream) {
            return stream.readAllBytes();
        }
    }

    /** Connecting can run out of time too. */
    private ApiFailure silent(int millis, SocketTimeoutException e) {
        return "Read timed out".equals(e.getMessage())
                ? new ApiFailure(
                        Holtra.UNREACHABLE,
                        "The service at " + server + " has not answered for " + millis / 1000
                                + " s, though it runs. It may be paused or busy; what was asked of it may still be done.")
                : unreachable(e);
    }

    private ApiFailure unreachable(IOException e) {
        String why = e.getMessage() == null ? "nobody listens there" : e.getMessage();
        return new ApiFailure(
                Holtra.UNREACHABLE, "The service at " + server + " cannot be reached: " + why + ". Does it run?");
    }

    private static JsonNode json(byte[] body) {
        return body.length == 0 ? JsonNodeFactory.instance.nullNode() : JsonTree.parse(body);
    }

    /** Problem details as a sentence, with what is listed in them below. */
    private static ApiFailure failure(int status, byte[] body) {
        StringBuilder text = new StringBuilder();
        try {
            JsonNode problem = JsonTree.parse(body);
            text.append(problem.path("title").asString("Refused")).append(": ");
            text.append(problem.path("detail").asString("the service answered " + status));
            for (JsonNode one : problem.path("problems")) {
                text.append("\n  line ").append(one.path("line").asInt());
                if (!one.path("where").asString("").isEmpty()) {
                    text.append(", ").append(one.path("where").asString());
                }
                text.append(": ").append(one.path("what").asString().replace("\n", "\n      "));
            }
        } catch (JacksonException e) {
            text.append("The service answered ").append(status).append('.');
        }
        boolean notAllowed = status == 401 || status == 403;
        if (status == 401) {
            text.append(" Give a key with --key, HOLTRA_API_KEY or the config file.");
        }
        return new ApiFailure(notAllowed ? Holtra.NOT_ALLOWED : Holtra.REFUSED, text.toString());
    }
}

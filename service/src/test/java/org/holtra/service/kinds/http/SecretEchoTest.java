package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.core.read.ListAppender;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.slf4j.LoggerFactory;

/** A destination that repeats its credential in every place and form it can think of. */
class SecretEchoTest {

    private static final String SECRET = "q7/Vd+\"x9-Zw3.Kp";

    private static TestService service;
    private static Client client;
    private final ListAppender<ILoggingEvent> log = new ListAppender<>();
    private ServerSocket destination;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
    }

    @AfterAll
    static void end() {
        service.close();
    }

    @BeforeEach
    void listen() throws IOException {
        destination = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        log.start();
        root().addAppender(log);
    }

    @AfterEach
    void hangUp() throws IOException {
        root().detachAppender(log);
        destination.close();
    }

    private static Logger root() {
        return (Logger) LoggerFactory.getLogger(org.slf4j.Logger.ROOT_LOGGER_NAME);
    }

    private static String base64(String text) {
        return Base64.getEncoder().encodeToString(text.getBytes(StandardCharsets.UTF_8));
    }

    private static List<String> forms() {
        return List.of(
                SECRET,
                URLEncoder.encode(SECRET, StandardCharsets.UTF_8),
                Client.JSON.writeValueAsString(SECRET),
                base64(SECRET),
                base64("pump:" + SECRET),
                base64("a:" + SECRET + "!"));
    }

    private void answer(int status) {
        String echo = String.join(" | ", forms());
        // The last one lies across the place where the answer is cut.
        String body = echo + "x".repeat(2_044 - echo.length()) + SECRET;
        Thread.ofVirtual().start(() -> {
            while (!destination.isClosed()) {
                try (Socket socket = destination.accept()) {
                    BufferedReader in = new BufferedReader(new InputStreamReader(socket.getInputStream()));
                    int length = 0;
                    for (String line = in.readLine(); line != null && !line.isEmpty(); line = in.readLine()) {
                        if (line.toLowerCase().startsWith("content-length:")) {
                            length = Integer.parseInt(line.substring(15).strip());
                        }
                    }
                    in.read(new char[length]);
                    socket.getOutputStream()
                            .write(("HTTP/1.1 " + status + " no " + SECRET + "\r\nX-Echo: " + SECRET
                                            + "\r\nLocation: http://x/?k=" + SECRET + "\r\nContent-Length: "
                                            + body.length() + "\r\nConnection: close\r\n\r\n" + body)
                                    .getBytes(StandardCharsets.ISO_8859_1));
                } catch (IOException e) {
                    return; // the test is over
                }
            }
        });
    }

    @ParameterizedTest
    @CsvSource({
        "bearer, 400",
        "bearer, 401",
        "bearer, 503",
        "bearer, 302",
        "basic, 400",
        "basic, 403",
        "header, 400",
        "header, 500",
        "query, 400",
        "query, 401",
    })
    void isKeptAndShownWithoutIt(String form, int status) {
        answer(status);
        client.save(
                "echo",
                Map.of(
                        "form",
                        form,
                        "token",
                        SECRET,
                        "user",
                        "pump",
                        "password",
                        SECRET,
                        "name",
                        "X-Key",
                        "value",
                        SECRET));
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                outlets:
                  echo: {kind: http, to: {url: "http://127.0.0.1:%d/in", credential: echo}}
                lanes:
                  echo: {inlets: [s], outlet: echo}
                """.formatted(destination.getLocalPort())));

        String id = client.send("s", "{\"id\": \"pump-1\"}");
        client.traceWhen(id, trace -> !trace.at("/lanes/0/attempts/0").isMissingNode());

        List<String> seen = new ArrayList<>(List.of(
                client.trace(id).toString(),
                client.get("/api/v1/outlets").toString(),
                client.get("/api/v1/overview").toString(),
                client.get("/api/v1/status").toString(),
                client.get("/api/v1/dead").toString(),
                client.get("/api/v1/setup/revisions").toString()));
        log.list.forEach(event -> seen.add(event.getFormattedMessage()));
        seen.addAll(everythingStored());
        for (String text : seen) {
            for (String secret : forms()) {
                assertThat(text).doesNotContain(secret).doesNotContain(secret.replace("\"", "\\\""));
            }
        }
    }

    /** Each row of each table as text, and what is bytes in it as text too. */
    private static List<String> everythingStored() {
        List<String> rows = new ArrayList<>();
        try (Connection connection = service.database().connect()) {
            for (String table : texts(
                    connection,
                    "select tablename from pg_tables where schemaname = 'public' and tablename != 'setup_revision'")) {
                rows.addAll(texts(connection, "select t::text from \"" + table + "\" t"));
                for (String column : texts(
                        connection,
                        "select column_name from information_schema.columns where table_name = '" + table
                                + "' and data_type = 'bytea'")) {
                    rows.addAll(texts(
                            connection,
                            "select coalesce(encode(\"" + column + "\", 'escape'), '') from \"" + table + "\""));
                }
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
        return rows;
    }

    private static List<String> texts(Connection connection, String query) throws SQLException {
        List<String> texts = new ArrayList<>();
        try (var statement = connection.createStatement();
                var rows = statement.executeQuery(query)) {
            while (rows.next()) {
                texts.add(rows.getString(1));
            }
        }
        return texts;
    }
}

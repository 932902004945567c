package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.net.Socket;
import java.net.URI;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class InletLimitsTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();
    private static final String HEAD = """
            POST /in/l HTTP/1.1\r
            Host: x\r
            Authorization: Bearer token-token\r
            Content-Type: application/json\r
            """;

    @BeforeEach
    void setUp() {
        CLIENT.save("l", Map.of("form", "bearer", "token", "token-token"));
    }

    private static void adopt(String limits) {
        Client.good(CLIENT.adopt("""
                inlets:
                  l: {kind: http, at: {path: l, credential: l%s}}
                """.formatted(limits)));
    }

    private static Client.Answer post() {
        return CLIENT.call("POST", "/in/l", "{}".getBytes(), "Authorization", "Bearer token-token");
    }

    private static Socket connect() throws IOException {
        return new Socket("127.0.0.1", URI.create(SERVICE.address()).getPort());
    }

    private static String answer(Socket socket) throws IOException {
        InputStream in = socket.getInputStream();
        byte[] some = new byte[4_096];
        int count = in.read(some);
        return count < 0 ? "" : new String(some, 0, count);
    }

    @Test
    void whatIsMoreThanTheRateIsToldToComeAgain() {
        adopt(", perSecond: 0.1");

        assertThat(post().status()).isEqualTo(202);
        Client.Answer refused = post();

        assertThat(refused.status()).isEqualTo(429);
        assertThat(refused.header("Retry-After")).isEqualTo("1");
        Client.await(() -> post().status(), status -> status == 202);
    }

    @Test
    void aBodyThatTricklesIsTakenAndHoldsNoThread() throws IOException {
        adopt("");
        List<Socket> slow = new ArrayList<>();
        for (int i = 0; i < 100; i++) {
            Socket socket = connect();
            socket.getOutputStream().write((HEAD + "Content-Length: 9\r\n\r\n{\"a\"").getBytes());
            slow.add(socket);
        }

        assertThat(post().status())
                .as("with more trickling senders than threads")
                .isEqualTo(202);

        for (Socket socket : slow) {
            socket.getOutputStream().write(": 12}".getBytes());
        }
        for (Socket socket : slow) {
            assertThat(answer(socket)).startsWith("HTTP/1.1 202");
            socket.close();
        }
    }

    private static Optional<Socket> slowOneThatKeepsOthersOut() {
        try {
            Socket slow = connect();
            slow.getOutputStream().write((HEAD + "Content-Length: 2\r\n\r\n{").getBytes());
            if (post().status() == 429) {
                return Optional.of(slow);
            }
            slow.close();
            return Optional.empty();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Test
    void requestsBeyondThoseThatMayBeUnderWayAreToldToComeAgain() throws IOException {
        adopt(", atOnce: 1");
        // Which of the two comes in first is not known; it is tried until the slow one does.
        Socket slow = Client.await(InletLimitsTest::slowOneThatKeepsOthersOut, Optional::isPresent)
                .orElseThrow();

        slow.getOutputStream().write("}".getBytes());

        assertThat(answer(slow)).startsWith("HTTP/1.1 202");
        slow.close();
        Client.await(() -> post().status(), status -> status == 202);
    }

    @Test
    void aBodyOfUnknownLengthIsBoundedToo() throws IOException {
        adopt(", maxBytes: 10");
        try (Socket socket = connect()) {
            socket.getOutputStream().write((HEAD + "Transfer-Encoding: chunked\r\n\r\n20\r\n").getBytes());
            socket.getOutputStream().write(new byte[32]);

            assertThat(answer(socket)).startsWith("HTTP/1.1 413");
        }
    }
}

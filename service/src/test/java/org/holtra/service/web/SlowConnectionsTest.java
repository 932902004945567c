package org.holtra.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.net.Socket;
import java.net.SocketException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class SlowConnectionsTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();
    private static final int MANY = 300;
    private static final byte[] MEGABYTE = " ".repeat(1_000_000).getBytes(StandardCharsets.US_ASCII);

    private final List<Socket> open = new ArrayList<>();

    @BeforeEach
    void setUp() {
        CLIENT.save("slow", Map.of("form", "bearer", "token", "token-token"));
        Client.good(CLIENT.adopt("""
                inlets:
                  slow: {kind: http, at: {path: slow, credential: slow}}
                  small: {kind: http, at: {path: small, credential: slow, maxBytes: 16}}
                """));
    }

    @AfterEach
    void hangUp() throws IOException {
        for (Socket socket : open) {
            socket.close();
        }
    }

    private Socket begin(String head) throws IOException {
        Socket socket = new Socket("127.0.0.1", URI.create(SERVICE.address()).getPort());
        open.add(socket);
        socket.setSoTimeout((int) Duration.ofMinutes(2).toMillis());
        socket.getOutputStream()
                .write(head.replace("KEY", SERVICE.key()).replace("\n", "\r\n").getBytes(StandardCharsets.UTF_8));
        return socket;
    }

    private static int post() {
        return CLIENT.call("POST", "/in/slow", "{}".getBytes(), "Authorization", "Bearer token-token")
                .status();
    }

    /** What comes until the other side ends the connection. */
    private static String toTheEnd(Socket socket) throws IOException {
        InputStream in = socket.getInputStream();
        return new String(in.readAllBytes(), StandardCharsets.UTF_8);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "POST /api/v1/session HTTP/1.1\nHost: x\nContent-Type: application/json\nContent-Length: 4000\n\n{",
                "POST /in/slow HTTP/1.1\nHost: x\nAuthorization: Bearer wrong\nContent-Length: 4000\n\n{",
                "POST /in/slow HTTP/1.1\nHost: x\nAuthorization: Bearer token-token\nContent-Length: 4000\n\n{",
                "POST /in/nowhere HTTP/1.1\nHost: x\nContent-Length: 4000\n\n{",
                "PUT /api/v1/credentials/x HTTP/1.1\nHost: x\nContent-Length: 4000\n\n{",
                "POST /somewhere HTTP/1.1\nHost: x\nTransfer-Encoding: chunked\n\n1\n{\n",
                "GET /in/slow HTTP/1.1\nHost: x\nX-Slow: ",
            })
    void manySlowSendersKeepNobodyOut(String head) throws IOException {
        for (int i = 0; i < MANY; i++) {
            begin(head);
        }

        assertThat(post()).isEqualTo(202);
        assertThat(CLIENT.keyed("GET", "/api/v1/setup/revisions", null, "application/json")
                        .status())
                .isEqualTo(200);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "POST /in/slow HTTP/1.1\nHost: x\nAuthorization: Bearer wrong\nContent-Length: 4000\n\n{;401",
                "POST /in/nowhere HTTP/1.1\nHost: x\nContent-Length: 4000\n\n{;404",
                "PUT /api/v1/credentials/x HTTP/1.1\nHost: x\nAuthorization: Bearer wrong\nContent-Length: 4000\n\n{;401",
                "POST /api/v1/session HTTP/1.1\nHost: x\nContent-Type: application/json\nContent-Length: 4000\n\n{;403",
                "PUT /api/v1/keys/x HTTP/1.1\nHost: x\nAuthorization: Bearer KEY\nContent-Length: 900000\n\n{;413",
            })
    void aCallThatIsRefusedEndsUnread(String call) throws IOException {
        String[] parts = call.split(";");

        String answer = toTheEnd(begin(parts[0]));

        assertThat(answer).startsWith("HTTP/1.1 " + parts[1]).contains("Connection: close");
    }

    /** RFC 9112, section 9.6: data that comes to a closed connection resets it, and its sender may never see the answer. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "POST /in/slow HTTP/1.1\nHost: x\nAuthorization: Bearer wrong\nContent-Length: 8000001\n\n{;401",
                "POST /in/nowhere HTTP/1.1\nHost: x\nContent-Length: 8000001\n\n{;404",
                "POST /in/slow HTTP/1.1\nHost: x\nAuthorization: Bearer token-token\nContent-Length: 8000001\n\n{;413",
                "POST /in/small HTTP/1.1\nHost: x\nAuthorization: Bearer token-token\nContent-Type: application/json\n"
                        + "Transfer-Encoding: chunked\n\n20\n                                \n7A1200\n;413",
                "PUT /api/v1/credentials/x HTTP/1.1\nHost: x\nAuthorization: Bearer wrong\nContent-Length: 8000001\n\n{;401",
                "PUT /api/v1/keys/x HTTP/1.1\nHost: x\nAuthorization: Bearer KEY\nContent-Length: 8000001\n\n{;413",
            })
    void aRefusedSenderCanSendTheRestOfItsBody(String call) throws IOException {
        String[] parts = call.split(";");
        Socket sender = begin(parts[0]);

        String answer = toTheEnd(sender);
        for (int sent = 0; sent < 8; sent++) {
            sender.getOutputStream().write(MEGABYTE);
        }

        assertThat(answer).startsWith("HTTP/1.1 " + parts[1]).contains("Connection: close");
    }

    @Test
    void aRefusedSenderThatGoesOnAndOnIsCutOff() throws IOException {
        Socket sender = begin("POST /in/nowhere HTTP/1.1\nHost: x\nTransfer-Encoding: chunked\n\n7FFFFFFF\n");
        toTheEnd(sender);

        int sent = 0;
        try {
            while (sent < 100) {
                sender.getOutputStream().write(MEGABYTE);
                sent++;
            }
        } catch (SocketException e) {
            assertThat(e).hasMessageMatching("Broken pipe|Connection reset.*");
        }

        assertThat(sent).isBetween(16, 99);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "PUT /api/v1/keys/x HTTP/1.1\nHost: x\nAuthorization: Bearer KEY\nContent-Length: 4000\n\n{",
                "POST /in/slow HTTP/1.1\nHost: x\nAuthorization: Bearer token-token\nContent-Length: 4000\n\n{",
            })
    void aBodyThatComesTooSlowlyIsGivenUp(String head) throws IOException {
        String answer = toTheEnd(begin(head));

        assertThat(answer).startsWith("HTTP/1.1 408").contains("The body came too slowly");
    }

    @Test
    void headersThatNeverEndAreGivenUpHoweverOftenAByteComes() throws IOException {
        Socket slow = begin("GET /api/v1/health HTTP/1.1\nHost: x\nX-Slow: ");
        long began = System.nanoTime();

        boolean ended = Client.await(
                () -> {
                    try {
                        slow.getOutputStream().write('x');
                        return false;
                    } catch (IOException e) {
                        return true;
                    }
                },
                gone -> gone);

        assertThat(ended).isTrue();
        assertThat(Duration.ofNanos(System.nanoTime() - began)).isGreaterThan(Duration.ofSeconds(9));
    }

    /** Go's standard client keeps an idle connection for 90 s, Java's for 30; a server that closes first cuts a call off. */
    @Test
    void anIdleConnectionIsKeptLongerThanItsSenderKeepsIt() throws IOException {
        Socket socket = begin("GET /api/v1/health HTTP/1.1\nHost: x\nConnection: keep-alive\n\n");
        BufferedReader in =
                new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.US_ASCII));

        assertThat(Stream.generate(() -> line(in)).takeWhile(line -> !line.isEmpty()))
                .contains("Keep-Alive: timeout=95");
    }

    private static String line(BufferedReader in) {
        try {
            return in.readLine();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Test
    void bodiesTakeNoMoreMemoryThanThereIsForThem() {
        BodyMemory memory = new BodyMemory(10);

        assertThat(memory.take(7)).isTrue();
        assertThat(memory.take(4)).isFalse();
        memory.giveBack(7);
        assertThat(memory.take(10)).isTrue();
        assertThat(memory.used()).isEqualTo(10);
    }

    @Test
    void theRestOfARefusedBodyIsReadUpToASizeAndATime() {
        Linger linger = new Linger(Duration.ofSeconds(5), Duration.ofSeconds(30), 1_000);

        assertThat(linger.goesOn(1_000, Duration.ofSeconds(29))).isTrue();
        assertThat(linger.goesOn(1_001, Duration.ofSeconds(29))).isFalse();
        assertThat(linger.goesOn(1_000, Duration.ofSeconds(30))).isFalse();
    }

    @Test
    void theLeastRateCountsFromTheEndOfTheGrace() {
        LeastRate rate = new LeastRate(Duration.ofSeconds(10), 100, Duration.ofSeconds(60));

        assertThat(rate.isMissed(0, Duration.ofSeconds(10))).isFalse();
        assertThat(rate.isMissed(1_000, Duration.ofSeconds(11))).isTrue();
        assertThat(rate.isMissed(1_100, Duration.ofSeconds(11))).isFalse();
        assertThat(rate.isMissed(1_000_000, Duration.ofSeconds(61))).isTrue();
    }
}

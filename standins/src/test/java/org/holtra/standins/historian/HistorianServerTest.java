package org.holtra.standins.historian;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class HistorianServerTest {

    private final Historian historian = new Historian();
    private HistorianServer server;

    @BeforeEach
    void start() throws IOException {
        server = new HistorianServer(historian, 0, "token");
    }

    @AfterEach
    void stop() {
        server.close();
    }

    private int post(String path, String body, String token, String key) throws Exception {
        HttpRequest request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + server.port() + path))
                .headers("Authorization", "Bearer " + token, "Idempotency-Key", key)
                .POST(HttpRequest.BodyPublishers.ofString(body))
                .build();
        return HttpClient.newHttpClient()
                .send(request, HttpResponse.BodyHandlers.ofString())
                .statusCode();
    }

    @Test
    void keepsSamplesOnceHoweverOftenTheyCome() throws Exception {
        String one = "a t=1.5,h=3i 2000000000";
        assertThat(post("/write", one, "token", "k1")).isEqualTo(200);
        assertThat(post("/write", one, "token", "k1")).isEqualTo(200);
        post("/write", "a t=9 1000000000", "token", "k2");

        assertThat(historian.series().get("a t"))
                .isEqualTo(new Historian.Series(new Historian.Sample("a t", 2000, 1.5), 2));
    }

    @Test
    void readsWhatIsEscapedAndKeepsNoTexts() throws Exception {
        String lines =
                "cli\\ mate,site=Ash\\,combe,a=b note=\"a \\\"quoted\\\" one, two\",open=true 2000000000\n\nb t=-1e-3 1";

        assertThat(post("/write", lines, "token", "k5")).isEqualTo(200);

        assertThat(historian.series().keySet()).containsExactly("b t", "cli mate,a=b,site=Ash,combe open");
        assertThat(historian
                        .series()
                        .get("cli mate,a=b,site=Ash,combe open")
                        .last()
                        .value())
                .isEqualTo(1);
    }

    @Test
    void keepsLinesOfReports() throws Exception {
        assertThat(post("/reports", "wm-01,2026-04-12 03:20,1,2,3\r\n", "token", "k3"))
                .isEqualTo(200);

        assertThat(historian.lines()).containsExactly("wm-01,2026-04-12 03:20,1,2,3");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            /write   | a t=1                                           | token | 400
            /write   | a t=one 1                                       | token | 400
            /write   | a 1                                             | token | 400
            /write   | a t="never ends 1                               | token | 400
            /write   | a t=1 1                                         | other | 401
            /reports | a,b                                             | token | 422
            /nowhere | a,b                                             | token | 404
            """)
    void refusesWhatItCannotKeep(String path, String body, String token, int status) throws Exception {
        assertThat(post(path, body, token, "k")).isEqualTo(status);
        assertThat(historian.series()).isEmpty();
    }
}

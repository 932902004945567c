package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import org.holtra.cli.AnsweredService.Ran;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** What a person and a script learn when a call does not succeed. */
class ApiFailuresTest {

    private final AnsweredService service = new AnsweredService();

    @AfterEach
    void close() {
        service.close();
    }

    @ParameterizedTest
    @CsvSource({"400, 5", "404, 5", "409, 5", "500, 5", "503, 5", "401, 4", "403, 4"})
    void theExitCodeTellsWhoMustMendIt(int status, int exit) {
        service.answers("GET /api/v1/jobs", status, "{\"title\":\"Refused\",\"detail\":\"It was refused so.\"}");

        Ran ran = service.holtra("job", "list");

        assertThat(ran.exit()).isEqualTo(exit);
        assertThat(ran.err()).contains("Refused: It was refused so.");
        assertThat(ran.out()).isEmpty();
    }

    @Test
    void whoeverIsNotLetInIsToldWhereTheKeyGoes() {
        service.answers("GET /api/v1/jobs", 401, "{\"title\":\"Not signed in\",\"detail\":\"The key is not known.\"}");

        assertThat(service.holtra("job", "list").err()).contains("--key", "HOLTRA_API_KEY", "config file");
    }

    @Test
    void eachProblemOfASetupStandsWithItsLineAndPlace() {
        service.answers("GET /api/v1/jobs", 422, """
                {"title":"The setup is not good","detail":"2 problems","problems":[
                 {"line":4,"column":3,"where":"lanes.frost.pick","what":"a comma is missing\\n  data.t < 0"},
                 {"line":9,"column":1,"where":"","what":"`outlet` is missing"}]}
                """);

        assertThat(service.holtra("job", "list").err())
                .contains("line 4, lanes.frost.pick: a comma is missing\n        data.t < 0")
                .contains("line 9: `outlet` is missing");
    }

    @ParameterizedTest
    @ValueSource(strings = {"<html>Bad gateway</html>", "", "{\"title\":", "null"})
    void anAnswerThatIsNoProblemIsToldByItsStatus(String body) {
        service.answers("GET /api/v1/jobs", 502, body);

        Ran ran = service.holtra("job", "list");

        assertThat(ran.exit()).isEqualTo(Holtra.REFUSED);
        assertThat(ran.err()).contains("502");
    }

    @Test
    void aServiceThatIsNotThereIsNamedWithItsAddress() throws IOException {
        int port;
        try (ServerSocket free = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            port = free.getLocalPort();
        }

        Ran ran = AnsweredService.run("http://127.0.0.1:" + port, "status");

        assertThat(ran.exit()).isEqualTo(Holtra.UNREACHABLE);
        assertThat(ran.err()).contains("http://127.0.0.1:" + port, "Does it run?");
    }

    @ParameterizedTest
    @ValueSource(strings = {"localhost:8080", "ftp://127.0.0.1", "not an address", "//"})
    void anAddressThatIsNoneIsSaidToBeNone(String address) {
        Ran ran = AnsweredService.run(address, "job", "list");

        assertThat(ran.exit()).isEqualTo(Holtra.UNREACHABLE);
        assertThat(ran.err()).contains("is not the address of a service");
    }

    @Test
    void aWrongCallShowsHowItIsMade() {
        Ran ran = service.holtra("job", "list", "--limit", "many");

        assertThat(ran.exit()).isEqualTo(2);
        assertThat(ran.err()).contains("--limit", "many");
        assertThat(service.asked()).isEmpty();
    }
}

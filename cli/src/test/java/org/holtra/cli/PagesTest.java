package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.holtra.cli.AnsweredService.Ran;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class PagesTest {

    private final AnsweredService service = new AnsweredService();

    /** Jobs 1, 2, 3 … 7, by whichever limit and after. */
    @BeforeEach
    void sevenJobs() {
        service.answers("GET /api/v1/jobs", query -> {
            int limit = number(query, "limit");
            int after = query.contains("after=") ? number(query, "after") : 0;
            int last = Math.min(7, after + limit);
            String jobs = IntStream.rangeClosed(after + 1, last)
                    .mapToObj("""
                            {"id":"id-%1$s","name":"r%1$s","what":"retry","state":"done","done":1,"expected":null,
                             "begun":"2026-04-12T03:00:00Z","by":"admin","note":null,"terms":{}}"""::formatted)
                    .collect(Collectors.joining(","));
            return "{\"jobs\":[" + jobs + "],\"next\":" + (last < 7 ? "\"" + last + "\"" : "null") + "}";
        });
    }

    @AfterEach
    void close() {
        service.close();
    }

    private static int number(String query, String name) {
        return Integer.parseInt(query.replaceFirst(".*" + name + "=(\\d+).*", "$1"));
    }

    @Test
    void aListIsReadAsFarAsItIsWantedAndSaysThatThereIsMore() {
        Ran ran = service.holtra("job", "list", "--limit", "3");

        assertThat(ran.out()).contains("r1", "r3", "There are more").doesNotContain("r4");
        assertThat(service.asked()).containsExactly("GET /api/v1/jobs?limit=3");
    }

    @Test
    void aWholeListSaysNothingOfMore() {
        assertThat(service.holtra("job", "list").out()).contains("r7").doesNotContain("There are more");
    }

    @Test
    void oneThatIsFarBackIsFoundByItsName() {
        service.answers(
                "GET /api/v1/jobs",
                query -> query.contains("after=")
                        ? "{\"jobs\":[{\"id\":\"x\",\"name\":\"r9\",\"what\":\"retry\",\"state\":\"done\",\"done\":4,"
                                + "\"expected\":4,\"begun\":\"2026-04-12T03:00:00Z\",\"by\":\"admin\",\"terms\":{}}],\"next\":null}"
                        : "{\"jobs\":[],\"next\":\"2026~a b\"}");

        Ran ran = service.holtra("job", "show", "r9");

        assertThat(ran.out()).contains("job", "r9, retry");
        assertThat(service.asked()).contains("GET /api/v1/jobs?limit=500&after=2026%7Ea%20b");
    }

    @Test
    void oneThatIsNotThereIsSaidNotToBe() {
        Ran ran = service.holtra("job", "show", "r99");

        assertThat(ran.exit()).isEqualTo(Holtra.REFUSED);
        assertThat(ran.err()).contains("There is no job r99; list them with: holtra job list");
    }

    @Test
    void programsGetTheWholeAnswerWithItsNext() {
        Ran ran = service.holtra("job", "list", "--limit", "2", "--json");

        assertThat(JsonTree.parse(ran.out().getBytes()).path("jobs")).hasSize(2);
        assertThat(JsonTree.parse(ran.out().getBytes()).path("next").asString()).isEqualTo("2");
    }
}

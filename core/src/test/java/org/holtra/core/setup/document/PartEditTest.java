package org.holtra.core.setup.document;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.setup.SetupSamples;
import org.junit.jupiter.api.Test;

public class PartEditTest {

    private static final String FILE = """
            # The co-operative's.
            inlets:
              in: {kind: any, at: {}}
            outlets:
              out: {kind: any, to: {}}

            lanes:
              # Calls the crew.
              frost:
                inlets: [in]
                pick: data.t < 0   # Celsius
                outlet: out
                shape:
                  body: {t: "${data.t}"}

              # All of it.
              all:
                inlets: [in]
                outlet: out
            """;

    private static Map<String, Object> frost() {
        return new LinkedHashMap<>(new SetupEdit(FILE).content("lanes", "frost").orElseThrow());
    }

    private static void isGood(String yaml) {
        SetupSamples.compile(yaml);
    }

    @Test
    void changesTheLinesOfWhatChangedAndNoOthers() {
        Map<String, Object> changed = frost();
        changed.put("pick", "data.t < -1.5");
        changed.put("state", "closed");

        String next = new SetupEdit(FILE).with("lanes", "frost", changed);

        assertThat(next)
                .isEqualTo(FILE.replace("    pick: data.t < 0   # Celsius\n", "    pick: data.t < -1.5\n")
                        .replace("{t: \"${data.t}\"}\n", "{t: \"${data.t}\"}\n    state: closed\n"));
        isGood(next);
    }

    @Test
    void takesFieldsAway() {
        Map<String, Object> changed = frost();
        changed.remove("pick");
        changed.remove("shape");

        String next = new SetupEdit(FILE).with("lanes", "frost", changed);

        assertThat(new SetupEdit(next).content("lanes", "frost")).contains(changed);
        assertThat(next).contains("# Calls the crew.", "# All of it.");
        isGood(next);
    }

    @Test
    void addsAPartAtTheEndOfItsSort() {
        Map<String, Object> content = new LinkedHashMap<>();
        content.put("inlets", List.of("in"));
        content.put("outlet", "out");
        content.put(
                "shape", Map.of("body", Map.of("deep", List.of(Map.of("a", "yes"), "${data.t}"), "text", "a: b\nc")));

        String next = new SetupEdit(FILE).with("lanes", "new", content);

        assertThat(next).startsWith(FILE.stripTrailing()).contains("\n\n  new:\n    inlets: [in]\n    outlet: out\n");
        assertThat(new SetupEdit(next).content("lanes", "new")).contains(content);
        isGood(next);
    }

    @Test
    void writesWhatStoodInBracesAsABlockOfItsOwn() {
        String next =
                new SetupEdit(FILE).with("outlets", "out", Map.of("kind", "any", "to", Map.of(), "state", "closed"));

        assertThat(new SetupEdit(next).content("outlets", "out").orElseThrow()).containsEntry("state", "closed");
        isGood(next);
        String braces = "inlets: {in: {kind: any, at: {}}}\n";
        String both = new SetupEdit(braces).with("inlets", "two", Map.of("kind", "any", "at", Map.of()));
        assertThat(new SetupEdit(both).names("inlets")).containsExactly("in", "two");
        isGood(both);
    }

    @Test
    void startsAFileThatHasNothing() {
        String next = new SetupEdit("").with("inlets", "in", Map.of("kind", "any", "at", Map.of()));

        assertThat(new SetupEdit(next).names("inlets")).containsExactly("in");
        isGood(next);
    }

    @Test
    void takesAPartAwayWithItsComment() {
        String next = new SetupEdit(FILE).without("lanes", "frost");

        assertThat(next).doesNotContain("frost", "# Calls the crew.").contains("  # All of it.\n  all:\n");
        isGood(next);
        String none = new SetupEdit(next).without("lanes", "all");
        assertThat(none).doesNotContain("lanes:").contains("# The co-operative's.");
        isGood(none);
    }

    @Test
    void showsAPartAsItIsWritten() {
        assertThat(new SetupEdit(FILE).text("lanes", "frost").orElseThrow())
                .startsWith("frost:\n  inlets: [in]\n  pick: data.t < 0   # Celsius\n");
        assertThat(new SetupEdit(FILE).text("lanes", "none")).isEmpty();
    }

    @Test
    void textsThatLookLikeOtherThingsStayTexts() {
        Map<String, Object> content = Map.of(
                "rows",
                new LinkedHashMap<>(Map.of("1", "on", "2", "true", "3", "12", "4", ": x", "5", "- y")),
                "default",
                "null");

        String next = new SetupEdit(FILE).with("lookups", "states", content);

        assertThat(new SetupEdit(next).content("lookups", "states")).contains(content);
        isGood(next);
    }
}

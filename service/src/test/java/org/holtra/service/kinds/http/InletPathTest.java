package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class InletPathTest {

    @Test
    void namedSegmentsTakeAnyText() {
        InletPath path = InletPath.of("meters/{meter}/data/{kind}");

        assertThat(path.match("meters/M-7/data/water")).contains(Map.of("meter", "M-7", "kind", "water"));
    }

    @ParameterizedTest
    @ValueSource(strings = {"meters", "meters/", "meters/7/more", "Meters/7", "/meters/7", ""})
    void onlyItsOwnShapeMatches(String path) {
        assertThat(InletPath.of("meters/{meter}").match(path)).isEmpty();
    }

    @Test
    void twoThatTakeTheSameRequestsHaveTheSameShape() {
        assertThat(InletPath.of("meters/{meter}").shape())
                .isEqualTo(InletPath.of("meters/{id}").shape())
                .isNotEqualTo(InletPath.of("meters/all").shape());
    }

    @Test
    void theOneThatSaysMoreToTheLeftComesFirst() {
        List<InletPath> sorted = Stream.of("a/{x}/{y}", "a/{x}/c", "a/b/{y}")
                .map(InletPath::of)
                .sorted(InletPath.MOST_EXACT_FIRST)
                .toList();

        assertThat(sorted)
                .map(InletPath::segments)
                .map(List::toString)
                .containsExactly("[a, b, {y}]", "[a, {x}, c]", "[a, {x}, {y}]");
    }
}

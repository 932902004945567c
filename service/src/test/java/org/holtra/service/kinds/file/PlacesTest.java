package org.holtra.service.kinds.file;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Set;
import org.junit.jupiter.api.Test;

class PlacesTest {

    private final Places places = Places.of("").with("a", "key-1", 10).with("b", "key-2", 20);

    @Test
    void aCursorTellsThePlacesAgain() {
        assertThat(Places.of(places.cursor())).isEqualTo(places);
    }

    @Test
    void aFileIsReadOnFromItsPlace() {
        assertThat(places.read("a", "key-1", 15)).isEqualTo(10);
        assertThat(places.read("c", "key-3", 15)).isZero();
    }

    @Test
    void anotherFileOfTheSameNameAndOneThatWasCutShortAreReadFromTheirBeginning() {
        assertThat(places.read("a", "key-9", 15)).isZero();
        assertThat(places.read("a", "key-1", 5)).isZero();
    }

    @Test
    void whatIsGoneIsForgotten() {
        assertThat(places.only(Set.of("b", "c"))).isEqualTo(Places.of("").with("b", "key-2", 20));
        assertThat(places.only(Set.of("a", "b"))).isSameAs(places);
    }
}

package org.holtra.service.journal.entry;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class ReplayTest {

    @Test
    void itIsReadAsItWasWritten() {
        Replay own = new Replay("r12", false);
        Replay first = new Replay("r12", true);

        assertThat(Replay.read(Replay.written(own))).isEqualTo(own);
        assertThat(Replay.read(Replay.written(first))).isEqualTo(first);
        assertThat(Replay.written(first)).isNotEqualTo(Replay.written(own));
    }

    @Test
    void aDeliveryThatIsNoReplayHasNone() {
        assertThat(Replay.written(null)).isNull();
        assertThat(Replay.read(null)).isNull();
    }
}

package org.holtra.core.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.List;
import java.util.Random;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;

class MessageIdsTest {

    private final AtomicLong millis = new AtomicLong(1_775_964_000_000L);
    private final MessageIds ids = new MessageIds(() -> Instant.ofEpochMilli(millis.get()), new Random(3));

    @Test
    void idsRiseThoughTheClockStandsStillOrStepsBack() {
        MessageId previous = ids.next();
        for (int i = 0; i < 20_000; i++) {
            if (i == 9_000) {
                millis.addAndGet(-5_000);
            }
            MessageId next = ids.next();
            assertThat(next).isGreaterThan(previous);
            assertThat(next.toString()).isGreaterThan(previous.toString());
            previous = next;
        }
    }

    @Test
    void anIdTellsItsTimeAndIsATraceId() {
        MessageId id = ids.next();

        assertThat(id.received()).isEqualTo("2026-04-12T03:20:00Z");
        assertThat(id.traceId()).hasSize(32).isEqualTo(id.toString().replace("-", ""));
        assertThat(MessageId.parse(id.toString())).isEqualTo(id);
        assertThat(id.value().variant()).isEqualTo(2);
    }

    @Test
    void otherUuidsAreRefused() {
        assertThatThrownBy(() -> MessageId.parse("6f1b7c1e-3b0a-4c55-9d0e-0d6f3a1b2c3d"))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("version 7");
    }

    @Test
    void aDerivedIdIsTheSameForTheSameTimeAndWordsAndTellsTheTime() {
        Instant stamp = Instant.parse("2026-04-12T03:15:00Z");

        MessageId one = MessageId.derived(stamp, List.of("lane", "key", "name"));

        assertThat(MessageId.derived(stamp, List.of("lane", "key", "name"))).isEqualTo(one);
        assertThat(MessageId.derived(stamp, List.of("lanek", "ey", "name"))).isNotEqualTo(one);
        assertThat(one.received()).isEqualTo(stamp);
    }
}

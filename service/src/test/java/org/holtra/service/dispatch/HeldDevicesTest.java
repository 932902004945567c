package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;

class HeldDevicesTest {

    private static final Instant START = Instant.parse("2026-04-12T03:00:00Z");

    private final HeldDevices held = new HeldDevices(List.of());

    private static Instant at(int minute) {
        return START.plusSeconds(60L * minute);
    }

    @Test
    void aDeviceWaitsUntilItIsTriedAgainAndNoOtherDoes() {
        held.hold("a", "not registered", at(0), at(5));

        assertThat(held.until("a", at(4))).contains(at(5));
        assertThat(held.until("a", at(5))).isEmpty();
        assertThat(held.until("b", at(0))).isEmpty();
    }

    @Test
    void aDeviceHeldAgainIsHeldSinceTheFirstTime() {
        held.hold("a", "not registered", at(0), at(5));
        held.hold("a", "not active", at(5), at(10));

        assertThat(held.all()).containsExactly(new HeldDevices.Held("a", "not active", at(0), at(10)));
    }

    @Test
    void thoseHeldTheLongestComeFirst() {
        held.hold("late", "no", at(3), at(9));
        held.hold("early", "no", at(1), at(9));

        assertThat(held.all()).extracting(HeldDevices.Held::device).containsExactly("early", "late");
    }

    @Test
    void whatIsFreedIsHeldNoMore() {
        held.hold("a", "no", at(0), at(5));
        held.hold("b", "no", at(0), at(5));

        assertThat(held.free("a")).isTrue();
        assertThat(held.free("a")).isFalse();
        assertThat(held.until("a", at(1))).isEmpty();
        assertThat(held.freeAll()).isTrue();
        assertThat(held.freeAll()).isFalse();
        assertThat(held.all()).isEmpty();
    }

    @Test
    void aDeliveryWithoutADeviceHoldsNothing() {
        held.hold(null, "no", at(0), at(5));

        assertThat(held.all()).isEmpty();
        assertThat(held.until(null, at(0))).isEmpty();
    }

    @Test
    void whatAnEarlierProcessHeldIsHeldStill() {
        HeldDevices after = new HeldDevices(List.of(new HeldDevices.Held("a", "no", at(0), at(5))));

        assertThat(after.until("a", at(1))).contains(at(5));
    }
}

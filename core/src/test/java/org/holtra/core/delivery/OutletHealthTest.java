package org.holtra.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import org.holtra.core.delivery.OutletHealth.State;
import org.junit.jupiter.api.Test;

class OutletHealthTest {

    private static final Instant START = Instant.parse("2026-04-12T03:00:00Z");
    private static final Verdict BROKEN = new Verdict.TryLater("connection refused", null, false, true);
    private static final Verdict BLOCKED = new Verdict.OutletBlocked("401 Unauthorized");

    private final OutletHealth flowing = OutletHealth.flowing(START);

    private static Instant at(long seconds) {
        return START.plusSeconds(seconds);
    }

    @Test
    void aBrokenConnectionIsProbedByOneDeliveryAtATimeEverMoreRarely() {
        OutletHealth first = flowing.after(BROKEN, "a", at(0));
        assertThat(first.state()).isEqualTo(State.BROKEN);
        assertThat(first.admits(at(0), 0)).isFalse();
        assertThat(first.admits(at(1), 0)).isTrue();
        assertThat(first.admits(at(1), 1)).isFalse();

        OutletHealth second = first.after(BROKEN, "a", at(1));
        assertThat(second.nextProbe()).isEqualTo(at(3));
        assertThat(second.since()).isEqualTo(at(0));

        OutletHealth many = second;
        for (int i = 0; i < 40; i++) {
            many = many.after(BROKEN, "a", at(3));
        }
        assertThat(many.nextProbe()).isEqualTo(at(33));
    }

    @Test
    void probesOfThoseThatBrokeTogetherAreSpread() {
        OutletHealth broken = flowing.after(BROKEN, "a", at(0)).after(BROKEN, "a", at(1));

        assertThat(broken.spread(0, at(1)).nextProbe()).isEqualTo(at(1).plusMillis(1_500));
        assertThat(broken.spread(1, at(1)).nextProbe()).isEqualTo(at(1).plusMillis(2_500));
        assertThat(flowing.spread(1, at(1))).isEqualTo(flowing);
    }

    @Test
    void itFlowsAgainOnceADeliveryArrives() {
        OutletHealth healed = flowing.after(BROKEN, "a", at(0)).after(new Verdict.Delivered(), "a", at(5));

        assertThat(healed.flows()).isTrue();
        assertThat(healed.reason()).isNull();
        assertThat(healed.since()).isEqualTo(at(5));
    }

    @Test
    void patienceStandsStillWhileBlockedAndOnlyThen() {
        OutletHealth blocked = flowing.after(BLOCKED, "a", at(10));
        assertThat(blocked.patience(at(70))).isEqualTo(at(10));

        OutletHealth stillBlocked = blocked.after(BLOCKED, "a", at(40));
        assertThat(stillBlocked.patience(at(70))).isEqualTo(at(10));

        OutletHealth mended = stillBlocked.mended(at(110));
        assertThat(mended.patience(at(110))).isEqualTo(at(10));
        assertThat(mended.patience(at(120))).isEqualTo(at(20));
        assertThat(mended.after(BROKEN, "a", at(120)).patience(at(130))).isEqualTo(at(30));
    }

    @Test
    void threeDifferentDevicesHeldInARowBlockTheOutlet() {
        Verdict held = new Verdict.DeviceHeld("403 Forbidden");

        OutletHealth two =
                flowing.after(held, "a", at(0)).after(held, "a", at(1)).after(held, "b", at(2));
        assertThat(two.flows()).isTrue();
        assertThat(two.after(new Verdict.Delivered(), "c", at(3))
                        .after(held, "d", at(4))
                        .flows())
                .isTrue();
        assertThat(two.after(held, "c", at(3)).state()).isEqualTo(State.BLOCKED);
    }

    @Test
    void itPausesUntilTheDestinationSaid() {
        OutletHealth paused = flowing.after(new Verdict.TryLater("429", at(30), false, false), "a", at(0));

        assertThat(paused.state()).isEqualTo(State.PAUSED);
        assertThat(paused.admits(at(29), 0)).isFalse();
        assertThat(paused.admits(at(30), 3)).isTrue();
    }

    @Test
    void aFailureOfOneMessageLeavesItFlowing() {
        assertThat(flowing.after(new Verdict.TryLater("500", null, true, false), "a", at(0))
                        .flows())
                .isTrue();
        assertThat(flowing.after(new Verdict.Refused("422"), "a", at(0)).flows())
                .isTrue();
    }

    @Test
    void theRarestProbeOfABlockIsEveryFiveMinutes() {
        OutletHealth blocked = flowing;
        for (int i = 0; i < 100; i++) {
            blocked = blocked.after(BLOCKED, "a", at(0));
        }
        assertThat(Duration.between(at(0), blocked.nextProbe())).isEqualTo(Duration.ofMinutes(5));
    }

    @Test
    void aClosedOutletIsNotTriedAndPatienceStandsStillUntilItOpens() {
        OutletHealth closed = flowing.closed(at(10));
        assertThat(closed.state()).isEqualTo(State.CLOSED);
        assertThat(closed.admits(at(1_000), 0)).isFalse();
        assertThat(closed.closed(at(20)).since()).isEqualTo(at(10));
        assertThat(closed.patience(at(70))).isEqualTo(at(10));

        // What was under way when it closed changes nothing, and trying now does not open it.
        assertThat(closed.after(new Verdict.Delivered(), "a", at(11))).isSameAs(closed);
        assertThat(closed.after(BLOCKED, "a", at(11))).isSameAs(closed);
        assertThat(closed.mended(at(12))).isSameAs(closed);

        OutletHealth open = closed.opened(at(70));
        assertThat(open.flows()).isTrue();
        assertThat(open.patience(at(80))).isEqualTo(at(20));
    }

    @Test
    void timeBlockedBeforeItClosedStaysCounted() {
        OutletHealth closed = flowing.after(BLOCKED, "a", at(0)).closed(at(30));

        assertThat(closed.patience(at(60))).isEqualTo(at(0));
        assertThat(closed.opened(at(60)).patience(at(70))).isEqualTo(at(10));
    }
}

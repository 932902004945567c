package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.Test;

/** How much is claimed at a time where messages are large. */
class ClaimedBytesTest extends SharedServiceTest {

    private static final int BYTES = 1_000;

    private void adopt(String order) {
        Client.good(client.adopt("""
                inlets:
                  c: {kind: http, at: {path: c, credential: sender}, device: data.id}
                outlets:
                  c: {kind: http, to: {url: "%s/"}}
                lanes:
                  c: {inlets: [c], outlet: c, state: closed, order: %s}
                """.formatted(receiver.address(), order)));
    }

    private void send(String device, int number) {
        String head = "{\"id\":\"" + device + "\",\"n\":" + number + ",\"filling\":\"";
        client.send("c", head + "x".repeat(BYTES - head.length() - 2) + "\"}");
    }

    private static Backlog.Claim claim() {
        return new Backlog.Claim(UUID.randomUUID(), UUID.randomUUID());
    }

    private Backlog backlog() {
        return service.bean(Backlog.class);
    }

    private static List<Integer> numbers(List<Delivery> claimed) {
        return claimed.stream()
                .map(one -> Client.JSON
                        .readTree(one.message().arrival().body())
                        .path("n")
                        .asInt())
                .toList();
    }

    private List<String> free() {
        return service.database().texts("select count(*)::text from owed where lane = 'c' and owner is null");
    }

    private List<Delivery> claimUnordered(Backlog.Room room) {
        return backlog().claim(claim(), "c", Instant.EPOCH, Instant.now().plusSeconds(60), room, List.of());
    }

    private Backlog.Ordered claimOrdered(Backlog.Room room) {
        return backlog().claimOrdered(claim(), "c", "", Instant.now().plusSeconds(60), room);
    }

    private void remove() {
        service.database().execute("delete from owed where lane = 'c'");
    }

    @Test
    void theOldestAreClaimedUntilTheirBytesAreUsedUpAndTheRestStaysAsItIs() {
        adopt("none");
        for (int n = 0; n < 5; n++) {
            send("d", n);
        }
        List<String> dues = service.database().texts("select due::text from owed order by due");
        Backlog.Room room = new Backlog.Room(10, 2 * BYTES + 1);

        List<Delivery> claimed = claimUnordered(room);

        assertThat(numbers(claimed)).containsExactly(0, 1, 2);
        assertThat(room.without(claimed).isUsedUp()).isTrue();
        assertThat(free()).containsExactly("2");
        assertThat(service.database().texts("select due::text from owed order by due"))
                .isEqualTo(dues);
        assertThat(numbers(claimUnordered(room))).containsExactly(3, 4);
        remove();
    }

    @Test
    void oneThatIsLargerThanTheRoomIsClaimedAlone() {
        adopt("none");
        send("d", 0);
        send("d", 1);

        assertThat(numbers(claimUnordered(new Backlog.Room(10, 1)))).containsExactly(0);
        assertThat(numbers(claimUnordered(new Backlog.Room(10, 1)))).containsExactly(1);
        remove();
    }

    @Test
    void ofDevicesThatKeepTheirOrderTheFirstAreClaimedAndThoseWithMoreAreNamed() {
        adopt("device");
        for (int n = 0; n < 3; n++) {
            send("a", n);
            send("b", n);
        }

        Backlog.Ordered first = claimOrdered(new Backlog.Room(10, 4 * BYTES));

        assertThat(numbers(first.claimed())).containsExactly(0, 1, 2, 0);
        assertThat(first.waiting()).containsExactly("b");
        assertThat(free()).containsExactly("2");
        remove();
    }

    @Test
    void aDeviceOfWhichNothingFittedIsNamedToo() {
        adopt("device");
        send("a", 0);
        send("b", 0);

        Backlog.Ordered first = claimOrdered(new Backlog.Room(10, BYTES));

        assertThat(first.claimed()).extracting(one -> one.owed().device()).containsExactly("a");
        assertThat(first.waiting()).containsExactly("b");
        remove();
    }
}

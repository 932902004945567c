package org.holtra.service.brokers;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import org.holtra.service.intake.Receipt;
import org.holtra.service.support.Client;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

class HandoverTest {

    private final List<String> acknowledged = Collections.synchronizedList(new ArrayList<>());
    private final Taking taking = new Taking();
    private final Handover handover = new Handover("test", taking, Duration.ofMillis(5));

    /** Keeps what it is not told to refuse, or leaves it open until it is told. */
    private static final class Taking implements Handover.Taker {

        private final List<String> taken = Collections.synchronizedList(new ArrayList<>());
        private final Set<String> refused = ConcurrentHashMap.newKeySet();
        private final Set<String> thrown = ConcurrentHashMap.newKeySet();
        private final Map<String, CompletableFuture<Receipt>> open = new ConcurrentHashMap<>();
        private final ConcurrentLinkedQueue<Throwable> notKept = new ConcurrentLinkedQueue<>();
        private final Map<String, CountDownLatch> holds = new ConcurrentHashMap<>();
        private final AtomicBoolean held = new AtomicBoolean();
        private volatile boolean answers = true;

        @Override
        public CompletableFuture<Receipt> take(Incoming message) {
            if (thrown.contains(message.topic())) {
                throw new IllegalStateException("cannot be kept now");
            }
            if (refused.contains(message.topic())) {
                return CompletableFuture.failedFuture(new IllegalStateException("cannot be kept now"));
            }
            if (holds.containsKey(message.topic())) {
                held.set(true);
                awaited(holds.get(message.topic()));
            }
            taken.add(message.topic());
            CompletableFuture<Receipt> future = new CompletableFuture<>();
            if (answers) {
                future.complete(null);
            } else {
                open.put(message.topic(), future);
            }
            return future;
        }

        private static void awaited(CountDownLatch latch) {
            try {
                assertThat(latch.await(60, TimeUnit.SECONDS)).isTrue();
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }

        @Override
        public void kept(Receipt receipt) {
            // The test looks at what is acknowledged.
        }

        @Override
        public void notKept(Throwable why) {
            notKept.add(why);
        }
    }

    @AfterEach
    void close() {
        handover.close();
    }

    private Object over = "first connection";

    private void offer(int qos, String... topics) {
        for (String topic : topics) {
            handover.offer(
                    new Incoming(topic, new byte[0], qos, false, null, Map.of(), () -> acknowledged.add(topic)), over);
        }
    }

    private void acknowledgedIs(String... topics) {
        Client.await(() -> List.copyOf(acknowledged), all -> all.size() >= topics.length);
        assertThat(acknowledged).containsExactly(topics);
    }

    @Test
    void messagesAreTakenInTheOrderTheyCame() {
        offer(1, "a", "b", "c");

        acknowledgedIs("a", "b", "c");
        assertThat(taking.taken).containsExactly("a", "b", "c");
    }

    @Test
    void severalAreUnderWayAtOnceAndEachIsAcknowledgedWhenItIsKept() {
        taking.answers = false;
        offer(1, "a", "b");
        Client.await(taking.open::size, size -> size == 2);

        taking.open.get("b").complete(null);
        acknowledgedIs("b");
        taking.open.get("a").complete(null);
        acknowledgedIs("b", "a");
    }

    @Test
    void whatCannotBeKeptIsNotAcknowledgedAndComesBeforeWhatFollows() {
        taking.refused.add("a");
        offer(1, "a");
        Client.await(taking.notKept::size, size -> size > 1);
        offer(1, "b", "c");
        assertThat(acknowledged).isEmpty();

        taking.refused.clear();
        acknowledgedIs("a", "b", "c");
    }

    @Test
    void aTakerThatThrowsIsTriedAgainToo() {
        taking.thrown.add("a");
        offer(1, "a");
        Client.await(taking.notKept::size, size -> size > 1);

        taking.thrown.clear();
        acknowledgedIs("a");
    }

    @Test
    void severalThatFailedAreKeptInTheirOrder() {
        taking.answers = false;
        offer(1, "a", "b", "c");
        Client.await(taking.open::size, size -> size == 3);
        Map<String, CompletableFuture<Receipt>> before = Map.copyOf(taking.open);
        taking.answers = true;
        taking.taken.clear();

        before.get("c").completeExceptionally(new IllegalStateException());
        before.get("a").completeExceptionally(new IllegalStateException());
        before.get("b").completeExceptionally(new IllegalStateException());

        acknowledgedIs("a", "b", "c");
        assertThat(taking.taken).containsExactly("a", "b", "c");
    }

    @Test
    void nothingGoesPastOneThatFailsWhileTheNextIsHandedOver() throws Exception {
        taking.answers = false;
        offer(1, "a");
        Client.await(taking.open::size, size -> size == 1);
        CompletableFuture<Receipt> first = taking.open.get("a");
        taking.holds.put("b", new CountDownLatch(1));
        offer(1, "b", "c");
        Client.await(taking.held::get, held -> held);

        Thread failing = Thread.ofPlatform().start(() -> first.completeExceptionally(new IllegalStateException()));
        Client.await(failing::getState, state -> state == Thread.State.WAITING);
        taking.holds.get("b").countDown();
        failing.join();
        // It was on its way already, and fails with what came before it.
        assertThat(taking.taken).containsExactly("a", "b");
        taking.answers = true;
        taking.open.get("b").completeExceptionally(new IllegalStateException());

        acknowledgedIs("a", "b", "c");
        assertThat(taking.taken).containsExactly("a", "b", "a", "b", "c");
    }

    @Test
    void whilePausedNothingIsTakenAndLaterAllOfIt() {
        handover.pause(true);
        offer(1, "a", "b");
        offer(0, "c");
        assertThat(taking.taken).isEmpty();

        handover.pause(false);
        acknowledgedIs("a", "b", "c");
    }

    @Test
    void ofQosZeroSoManyAreHeldAndTheRestIsCounted() {
        handover.pause(true);
        for (int i = 0; i < Handover.MOST_WAITING + 7; i++) {
            offer(0, "t");
        }
        offer(1, "u");

        // One may have been on its way to the taker when it was paused.
        assertThat(handover.lost()).isBetween(6L, 7L);
        assertThat(handover.lost()).isZero();
    }

    @Test
    void ofQosZeroSoManyBytesAreHeldAndThereIsRoomAgainOnceTheyAreTaken() {
        byte[] payload = new byte[1 << 20];
        int held = (int) (Handover.MOST_WAITING_BYTES >> 20);
        handover.pause(true);
        for (int i = 0; i < held + 7; i++) {
            handover.offer(new Incoming("t", payload, 0, false, null, Map.of(), () -> {}), this);
        }
        assertThat(handover.lost()).isBetween(6L, 7L);

        handover.pause(false);
        Client.await(() -> taking.taken.size(), size -> size >= held);
        handover.offer(new Incoming("u", payload, 0, false, null, Map.of(), () -> {}), this);

        Client.await(() -> taking.taken, taken -> taken.contains("u"));
        assertThat(handover.lost()).isZero();
    }

    @Test
    void whatTheBrokerSendsAnewIsTakenOnce() {
        handover.pause(true);
        offer(1, "a", "b");
        offer(0, "c");
        over = "second connection";
        offer(1, "a", "b");
        handover.only(over);
        handover.pause(false);

        acknowledgedIs("c", "a", "b");
        assertThat(taking.taken).containsExactly("c", "a", "b");
    }

    @Test
    void afterItIsClosedNothingIsTaken() {
        taking.refused.add("a");
        offer(1, "a");
        Client.await(taking.notKept::size, size -> size > 0);
        handover.close();
        taking.refused.clear();
        offer(1, "b");

        assertThat(taking.taken).isEmpty();
        assertThat(acknowledged).isEmpty();
    }
}

package org.holtra.service.cluster;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

/** What a node reloads, because another changed it or because it missed events, never undoes what it changes itself. */
class ReloadTest extends ServiceTest {

    private static final int CHANGES = 150;

    private void whileReloading(ClusterEvent event, Runnable changes) {
        AtomicBoolean over = new AtomicBoolean();
        CompletableFuture<Void> reloading = CompletableFuture.runAsync(() -> {
            while (!over.get()) {
                service.publish(event);
            }
        });
        changes.run();
        over.set(true);
        reloading.join();
    }

    @Test
    void aCredentialThatIsSavedMeanwhileIsKnown() {
        CredentialStore store = service.bean(CredentialStore.class);

        whileReloading(new ClusterEvent(ClusterEvent.Topic.CREDENTIAL, ""), () -> {
            for (int i = 0; i < CHANGES; i++) {
                client.save("c-" + i, Map.of("form", "bearer", "token", "token-token"));
            }
        });

        assertThat(store.forms()).hasSize(CHANGES + 1);
    }

    @Test
    void factsThatAreSetMeanwhileStay() {
        client.put("/api/v1/devices/one?key=d", Map.of("facts", Map.of("row", 0)));
        whileReloading(new ClusterEvent(ClusterEvent.Topic.DEVICE, "d"), () -> {
            for (int i = 1; i <= CHANGES; i++) {
                client.put("/api/v1/devices/one?key=d", Map.of("facts", Map.of("row", i)));
                assertThat(client.get("/api/v1/devices/one?key=d")
                                .at("/facts/row")
                                .asInt())
                        .isEqualTo(i);
            }
        });
    }

    @Test
    void devicesThatAppearMeanwhileAreKnown() {
        whileReloading(new ClusterEvent(ClusterEvent.Topic.DEVICE, ""), () -> {
            for (int i = 0; i < CHANGES; i++) {
                client.put("/api/v1/devices/one?key=new-" + i, Map.of("facts", Map.of("row", i)));
                assertThat(client.get("/api/v1/devices/one?key=new-" + i)
                                .path("key")
                                .asString())
                        .isEqualTo("new-" + i);
            }
        });
    }
}

package org.holtra.service.setups;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.intake.SourceKind;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** A kind that fails harms its own inlets and outlets; the rest of a setup takes effect. */
class BrokenKindTest {

    private static final String FORM = "{\"type\":\"object\"}";

    /** Fails whenever something is to be opened. */
    static class Broken implements SourceKind, OutletKind {

        @Override
        public String name() {
            return "broken";
        }

        @Override
        public Optional<String> inletForm() {
            return Optional.of(FORM);
        }

        @Override
        public Optional<String> outletForm() {
            return Optional.of(FORM);
        }

        @Override
        public Source open(SourceContext context) {
            throw new IllegalStateException("no door can be found");
        }

        @Override
        public String address(Inlet inlet) {
            return "";
        }

        @Override
        public List<CheckStep> check(Inlet inlet, Credential credential) {
            return List.of();
        }

        @Override
        public List<CheckStep> check(Outlet outlet, Credential credential) {
            return List.of();
        }

        @Override
        public String address(Outlet outlet) {
            return "";
        }

        @Override
        public Sink open(Outlet outlet, Credential credential) {
            throw new IllegalStateException("the wire is cut");
        }
    }

    @Test
    void theOtherPartsOfTheSetupTakeEffectAndTheBrokenOnesSayWhy() {
        try (TestService service = TestService.with(TestDatabase.fresh(), Broken.class);
                Receiver receiver = Receiver.answering(200)) {
            Client client = service.client();
            client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
            Client.good(client.adopt("""
                    inlets:
                      a: {kind: broken, at: {}}
                      s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                    outlets:
                      bad: {kind: broken, to: {}}
                      good: {kind: http, to: {url: "%s"}}
                    lanes:
                      bad: {inlets: [s], outlet: bad}
                      good: {inlets: [s], outlet: good}
                    """.formatted(receiver.address())));

            String id = client.send("s", "{\"id\":\"d\"}");

            Client.await(() -> receiver.came().size(), size -> size == 1);
            JsonNode trace = Client.await(
                    () -> client.trace(id), one -> one.path("lanes").toString().contains("the wire is cut"));
            assertThat(trace.path("lanes").toString()).contains("waiting");
            Client.await(
                    () -> client.get("/api/v1/status").path("troubles").toString(),
                    troubles -> troubles.contains("outlet bad is blocked: the outlet cannot be opened")
                            && troubles.contains("inlet a cannot be opened"));
        }
    }
}

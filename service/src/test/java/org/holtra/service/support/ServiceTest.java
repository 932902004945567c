package org.holtra.service.support;

import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import tools.jackson.databind.JsonNode;

/** A fresh service for each test, with a sender's credential and a destination that answers 200. */
public abstract class ServiceTest {

    protected TestService service;
    protected Client client;
    protected Receiver receiver;

    @BeforeEach
    void startService() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        receiver = Receiver.answering(200);
        client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
    }

    @AfterEach
    void endService() {
        service.close();
        receiver.close();
    }

    /** Stops the service and starts it on the same database. */
    protected void restart() {
        service.close();
        service = service.again();
        client = service.client();
    }

    /** Waits until the only delivery of a message, or the message itself, is in a state; gives its trace. */
    protected JsonNode becomes(String id, String state) {
        return Client.await(() -> client.trace(id), trace -> Client.state(trace).equals(state));
    }
}

package org.holtra.service.support;

import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import tools.jackson.databind.JsonNode;

/**
 * One service for all tests of a class, whose setup each of them adopts anew, with a sender's credential and a destination that
 * answers 200. For tests that ask for messages of their own only; others want {@link ServiceTest}.
 */
public abstract class SharedServiceTest {

    private static TestService running;

    protected TestService service;
    protected Client client;
    protected Receiver receiver;

    @BeforeAll
    static void startService() {
        running = TestService.start(TestDatabase.fresh());
        running.client().save("sender", Map.of("form", "bearer", "token", "in-token-1"));
    }

    @AfterAll
    static void endService() {
        running.close();
    }

    @BeforeEach
    void beginAnew() {
        service = running;
        client = running.client();
        receiver = Receiver.answering(200);
    }

    @AfterEach
    void leaveNothing() {
        Client.good(client.adopt("inlets: {}"));
        receiver.close();
    }

    /** Waits until the only delivery of a message, or the message itself, is in a state; gives its trace. */
    protected JsonNode becomes(String id, String state) {
        return Client.await(() -> client.trace(id), trace -> Client.state(trace).equals(state));
    }
}

package org.holtra.core.message;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.UUID;
import org.junit.jupiter.api.Test;

class TraceContextTest {

    private static final MessageId ID = new MessageId(UUID.fromString("01a2266f-2617-7000-a94b-c74b04c9c923"));

    @Test
    void aMessagesTraceIsItsOwnIdWhereNoneCameIn() {
        TraceContext own = TraceContext.of(ID, null);

        assertThat(own).isEqualTo(new TraceContext("01a2266f26177000a94bc74b04c9c923", null, "a94bc74b04c9c923"));
        assertThat(TraceContext.of(ID, "not of the standard")).isEqualTo(own);
    }

    @Test
    void aTraceThatCameInGoesOn() {
        TraceContext came = TraceContext.of(ID, "00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01");

        assertThat(came.trace()).isEqualTo("4bf92f3577b34da6a3ce929d0e0e4736");
        assertThat(came.parent()).isEqualTo("00f067aa0ba902b7");
        assertThat(came.traceparent("1111111111111111"))
                .isEqualTo("00-4bf92f3577b34da6a3ce929d0e0e4736-1111111111111111-01");
    }
}

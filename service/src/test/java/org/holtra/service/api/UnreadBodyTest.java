package org.holtra.service.api;

import static org.assertj.core.api.Assertions.assertThat;

import org.holtra.service.support.Client;
import org.holtra.service.support.TestService;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class UnreadBodyTest {

    private static final Client CLIENT = TestService.shared().client();

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {"lane": "l", "sameKez": true}   | sameKez   | The call has no field `sameKez`. Did you mean `sameKey`? It takes
            {"lane": "l", "from": "yesterday"} | from    | `from` is a time, such as 2026-04-18T05:30:00Z; `yesterday` is none.
            {"lane": "l", "perSecond": {}}   | perSecond | `perSecond` is a number.
            {"lane": "l",                    | body      | The body is not JSON: line 1, column
            ''                               | body      | The call needs a body of JSON.
            """)
    void aBodyThatCannotBeReadIsRefusedWithThePlaceAndTheMend(String body, String field, String detail) {
        Client.Answer answer = CLIENT.keyed("POST", "/api/v1/replays", body.getBytes(), "application/json");

        assertThat(answer.status()).isEqualTo(400);
        assertThat(answer.json().path("field").asString()).isEqualTo(field);
        assertThat(answer.json().path("detail").asString()).startsWith(detail);
    }
}

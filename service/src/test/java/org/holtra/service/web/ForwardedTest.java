package org.holtra.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ForwardedTest {

    /** The test itself calls from 127.0.0.1. */
    @ParameterizedTest
    @CsvSource({"127.0.0.1, true", "192.0.2.7, false", "'', false"})
    void cookiesAreSecureWhenATrustedProxySaysThatItWasCalledOverTls(String trusted, boolean secure) {
        try (TestService service = TestService.start(TestDatabase.fresh(), Map.of("holtra.trusted-proxies", trusted))) {
            Client.Answer answer = service.client()
                    .call(
                            "GET",
                            "/api/v1/session",
                            null,
                            "X-Forwarded-Proto",
                            "https",
                            "X-Forwarded-For",
                            "198.51.100.9");

            List<String> cookies = answer.headers().getOrDefault("set-cookie", List.of());
            assertThat(cookies).isNotEmpty();
            assertThat(cookies)
                    .allSatisfy(cookie ->
                            assertThat(cookie.contains("; Secure")).as(cookie).isEqualTo(secure));
        }
    }
}

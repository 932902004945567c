package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.holtra.service.httpclient.HttpCredential;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class SenderSlipTest {

    private static final Instant ROTATED = Instant.parse("2026-04-12T03:00:00Z");
    private static final Map<String, List<HttpCredential>> OTHERS = Map.of(
            "masts",
            List.of(new HttpCredential.Bearer("masts-token")),
            "gauges",
            List.of(new HttpCredential.Basic("gauge", "gauge-pass")));

    private static Slip.Told find(HttpCredential wanted, HttpCredential retired, String... headers) {
        Map<String, String> given = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        for (int i = 0; i < headers.length; i += 2) {
            given.put(headers[i], headers[i + 1]);
        }
        return new SenderSlip(wanted, retired, retired == null ? null : ROTATED, OTHERS)
                .find(given::get, "What the sender was told.");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', nullValues = "none", textBlock = """
            none                        | NO_HEADER               | has no header Authorization
            my-token                    | NO_SCHEME               | write `Bearer` and a space
            Bearer                      | NO_HEADER               | its token is missing
            Bearer Bearer my-token      | SCHEME_TWICE            | write it once
            bearer BEARER my-token      | SCHEME_TWICE            | write it once
            Basic my-token              | OTHER_SCHEME            | begins with `Basic`; write `Bearer`
            Token my-token              | OTHER_SCHEME            | begins with `Token`; write `Bearer`
            Bearer old-token            | OLD_SECRET              | accepted until 2026-04-12T03:00:00Z
            Bearer masts-token          | SECRET_OF_ANOTHER_INLET | the secret of inlet masts
            Bearer 'my-token'           | QUOTED_SECRET           | without them
            Bearer <my-token>           | QUOTED_SECRET           | without them
            Bearer my-tokem             | WRONG_SECRET            | its token is another
            """, quoteCharacter = '~')
    void tellsTokensApart(String authorization, Slip slip, String text) {
        HttpCredential wanted = new HttpCredential.Bearer("my-token");
        HttpCredential retired = new HttpCredential.Bearer("old-token");

        Slip.Told told =
                authorization == null ? find(wanted, retired) : find(wanted, retired, "Authorization", authorization);

        assertThat(told.slip()).isEqualTo(slip);
        assertThat(told.text()).contains(text).doesNotContain("my-token").doesNotContain("old-token");
    }

    @Test
    void tellsThatTheSecretCameInAnotherHeader() {
        assertThat(find(new HttpCredential.Bearer("my-token"), null, "X-Api-Key", "my-token"))
                .isEqualTo(Slip.OTHER_HEADER.told(
                        "The secret came in the header X-Api-Key; the inlet looks for it in Authorization."));
        assertThat(find(new HttpCredential.Header("X-Meter-Key", "k1"), null, "Authorization", "Bearer k1")
                        .slip())
                .isEqualTo(Slip.OTHER_HEADER);
    }

    @ParameterizedTest
    @CsvSource({
        "Basic dXNlcjpwYXNz, WRONG_SECRET, The user is right",
        "Basic c29tZTpwYXNz, OTHER_USER, which is `user`",
        "Basic ???, WRONG_SECRET, not Base64",
        "Basic dXNlcg==, WRONG_SECRET, no colon",
        "Basic Z2F1Z2U6Z2F1Z2UtcGFzcw==, SECRET_OF_ANOTHER_INLET, inlet gauges",
        "user:secret, NO_SCHEME, write `Basic`",
        "Bearer abc, OTHER_SCHEME, write `Basic`"
    })
    void tellsUsersAndPasswordsApart(String authorization, Slip slip, String text) {
        Slip.Told told = find(new HttpCredential.Basic("user", "secret"), null, "Authorization", authorization);

        assertThat(told.slip()).isEqualTo(slip);
        assertThat(told.text()).contains(text).doesNotContain("secret`");
    }

    @ParameterizedTest
    @CsvSource({
        "X-Meter-Key, k2, WRONG_SECRET",
        "X-Meter-Key, Bearer k1, OTHER_SCHEME",
        "X-Meter-Key, '\"k1\"', QUOTED_SECRET",
        "X-Other, k3, NO_HEADER"
    })
    void tellsKeysApart(String header, String value, Slip slip) {
        assertThat(find(new HttpCredential.Header("X-Meter-Key", "k1"), null, header, value)
                        .slip())
                .isEqualTo(slip);
    }

    @Test
    void aSignatureThatIsNotRightIsToldAsItsSenderWasTold() {
        assertThat(find(new HttpCredential.Signature("whsec_AAAA"), null))
                .isEqualTo(Slip.SIGNATURE.told("What the sender was told."));
    }

    @Test
    void tellsKeysInTheQueryAndInThePathApart() {
        HttpCredential query = new HttpCredential.Query("key", "k1");
        assertThat(find(query, null).slip()).isEqualTo(Slip.NO_SECRET);
        assertThat(find(query, null, SenderSlip.QUERY, "k2").slip()).isEqualTo(Slip.WRONG_SECRET);
        assertThat(find(query, null, "X-Api-Key", "k1").text()).contains("came in the header X-Api-Key");

        HttpCredential path = new HttpCredential.PathPart("p1");
        assertThat(find(path, null).text()).contains("put {secret} into it");
        assertThat(find(path, null, SenderSlip.PATH, "masts-token").slip()).isEqualTo(Slip.SECRET_OF_ANOTHER_INLET);
    }
}

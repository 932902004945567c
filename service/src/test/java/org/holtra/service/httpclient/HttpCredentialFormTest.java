package org.holtra.service.httpclient;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.security.SecureRandom;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class HttpCredentialFormTest {

    private static CredentialForm.Checked check(String form, String... fields) throws CredentialForm.Unfit {
        Map<String, String> map = new java.util.HashMap<>();
        for (int i = 0; i < fields.length; i += 2) {
            map.put(fields[i], fields[i + 1]);
        }
        return HttpCredentialForm.find(form).orElseThrow().check(map);
    }

    @ParameterizedTest
    @CsvSource({
        "abc.def, abc.def, 0",
        "Bearer abc.def, abc.def, 1",
        "Bearer Bearer abc.def, abc.def, 1",
        "bearer: abc.def, abc.def, 1",
        "'  abc.def\n', abc.def, 1",
        "'\"abc.def\"', '\"abc.def\"', 1",
        "<your-token>, <your-token>, 1",
        "abc def, abc def, 1"
    })
    void aSchemeWordInFrontOfATokenIsTakenOffAndToldOf(String pasted, String token, int notices) throws Exception {
        CredentialForm.Checked checked = check("bearer", "token", pasted);

        assertThat(HttpCredential.of(checked.credential())).contains(new HttpCredential.Bearer(token));
        assertThat(checked.notices()).hasSize(notices);
    }

    @Test
    void aMissingSchemeWordInAnAuthorizationHeaderIsToldOf() throws Exception {
        assertThat(check("header", "name", "Authorization", "value", "abc.def").notices())
                .singleElement()
                .asString()
                .contains("no scheme word");
        assertThat(check("header", "name", "Authorization", "value", "Bearer abc")
                        .notices())
                .isEmpty();
        assertThat(check("header", "name", "authorization:", "value", "Bearer bearer abc"))
                .satisfies(checked -> {
                    assertThat(HttpCredential.of(checked.credential()))
                            .contains(new HttpCredential.Header("authorization", "Bearer abc"));
                    assertThat(checked.notices()).hasSize(2);
                });
        assertThat(check("header", "name", "X-Key", "value", "Bearer abc").notices())
                .hasSize(1);
    }

    @ParameterizedTest
    @CsvSource({
        "bearer, token, Bearer, token",
        "bearer, token, Basic abc, token",
        "bearer, token, 'a\nb', token",
        "basic, password, secret, user",
        "header, value, secret, name",
        "signature, secret, whsec_???, secret",
        "signature, secret, c2hvcnQ=, secret"
    })
    void whatLeavesNoCredentialIsRefusedAtItsField(String form, String field, String value, String at) {
        assertThatThrownBy(() -> check(form, field, value))
                .isInstanceOfSatisfying(
                        CredentialForm.Unfit.class,
                        unfit -> assertThat(unfit.field()).isEqualTo(at));
    }

    @Test
    void aCredentialSaysNothingOfItselfAsText() throws Exception {
        assertThat(check("basic", "user", "a", "password", "secret")
                        .credential()
                        .toString())
                .doesNotContain("secret");
        assertThat(check("bearer", "token", "secret").credential().toString()).doesNotContain("secret");
    }

    @Test
    void whatIsMadeHereIsFitAndNeverTheSame() throws Exception {
        for (HttpCredentialForm form : List.of(HttpCredentialForm.BEARER, HttpCredentialForm.SIGNATURE)) {
            Map<String, String> made = form.generated(new SecureRandom()).orElseThrow();

            assertThat(form.check(made).notices()).isEmpty();
            assertThat(form.generated(new SecureRandom()).orElseThrow()).isNotEqualTo(made);
        }
    }

    @Test
    void aFormOfAnotherKindIsNoneOfThese() {
        assertThat(HttpCredential.of(new Credential("user-and-key", Map.of(), Set.of())))
                .isEmpty();
    }
}

package org.holtra.service.credentials;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.security.SecureRandom;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class CredentialFormTest {

    private static CredentialForm.Checked check(String form, String... fields) throws CredentialForm.Unfit {
        Map<String, String> map = new java.util.HashMap<>();
        for (int i = 0; i < fields.length; i += 2) {
            map.put(fields[i], fields[i + 1]);
        }
        return new CredentialForm(form, map).check();
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

        assertThat(checked.credential()).isEqualTo(new Credential.Bearer(token));
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
                    assertThat(checked.credential()).isEqualTo(new Credential.Header("authorization", "Bearer abc"));
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
        "signature, secret, c2hvcnQ=, secret",
        "secret-handshake, token, x, form"
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
    void whatIsSealedOpensUnderItsOwnNameAndKeyOnly() {
        SecureRandom random = new SecureRandom();
        byte[] key = new byte[32];
        random.nextBytes(key);
        byte[] other = new byte[32];
        Seal seal = new Seal(List.of(key), random);
        byte[] sealed = seal.seal("desk", "secret".getBytes());

        assertThat(new String(sealed, java.nio.charset.StandardCharsets.ISO_8859_1))
                .doesNotContain("secret");
        assertThat(seal.seal("desk", "secret".getBytes())).isNotEqualTo(sealed);
        assertThat(seal.open("desk", sealed)).isEqualTo("secret".getBytes());
        assertThatThrownBy(() -> seal.open("board", sealed)).isInstanceOf(IllegalStateException.class);
        assertThatThrownBy(() -> new Seal(List.of(other), random).open("desk", sealed))
                .isInstanceOf(IllegalStateException.class);
        Seal rotated = new Seal(List.of(other, key), random);
        assertThat(rotated.open("desk", sealed)).isEqualTo("secret".getBytes());
        assertThat(rotated.isOld("desk", sealed)).isTrue();
        assertThat(rotated.isOld("desk", rotated.seal("desk", "secret".getBytes())))
                .isFalse();
    }
}

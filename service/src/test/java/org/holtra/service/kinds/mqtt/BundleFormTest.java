package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.Map;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.support.TestCertificates;
import org.holtra.service.support.TestCertificates.Pair;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class BundleFormTest {

    @TempDir
    private Path folder;

    private final BundleForm form = new BundleForm();
    private Pair authority;
    private Pair client;

    @BeforeEach
    void makeCertificates() {
        TestCertificates made = new TestCertificates(folder);
        authority = made.authority("larkmoor-authority");
        client = made.signed("pump-gateway", authority);
    }

    private CredentialForm.Checked check(String pem) throws CredentialForm.Unfit {
        return form.check(Map.of("pem", pem));
    }

    @Test
    void textsPastedInAnyOrderAreTakenApart() throws CredentialForm.Unfit {
        CredentialForm.Checked checked =
                check("From the plant's operator:\n" + authority.pem() + "\n" + client.keyPem() + client.pem());

        Credential credential = checked.credential();
        assertThat(credential.field("certificate")).startsWith(client.pem());
        assertThat(credential.field("authority")).contains(authority.pem().strip());
        assertThat(credential.field("key")).contains("PRIVATE KEY");
        assertThat(credential.secretFields()).containsExactly("key");
        assertThat(checked.notices()).first().asString().contains("CN=pump-gateway");
        assertThat(checked.notices()).last().asString().contains("CN=larkmoor-authority");
    }

    @Test
    void withoutAKeyAllAreAuthorities() throws CredentialForm.Unfit {
        CredentialForm.Checked checked = check(authority.pem());

        assertThat(checked.credential().field("authority"))
                .contains(authority.pem().strip());
        assertThat(checked.credential().fields()).doesNotContainKey("certificate");
        assertThat(checked.notices()).first().asString().contains("no private key");
    }

    @Test
    void aPasswordMayComeWithIt() throws CredentialForm.Unfit {
        Credential credential = form.check(
                        Map.of("pem", authority.pem(), "user", " pumps ", "password", "made-up-secret"))
                .credential();

        assertThat(credential.field("user")).isEqualTo("pumps");
        assertThat(credential.secretFields()).containsExactly("password");
    }

    @Test
    void whatDoesNotBelongTogetherIsRefused() {
        assertThatThrownBy(() -> check(client.keyPem() + authority.pem()))
                .hasMessageContaining("none of the 1 certificates in it is the one that the key belongs to");
        assertThatThrownBy(() -> check(client.keyPem())).hasMessageContaining("a private key in it and no certificate");
        assertThatThrownBy(() -> check("certificate")).hasMessageContaining("neither a certificate nor a private key");
        assertThatThrownBy(() -> check(" ")).hasMessageContaining("missing");
    }
}

package org.holtra.service.tokens;

import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.CredentialFormProvider;
import org.springframework.stereotype.Component;

/** Offers the forms of credential that are exchanged for tokens. */
@Component
public class TokenForms implements CredentialFormProvider {

    @Override
    public List<CredentialForm> credentialForms() {
        return List.of(TokenForm.values());
    }

    /** Their names. A kind whose outlets present a bearer token takes these too. */
    public static Set<String> words() {
        return Stream.of(TokenForm.values()).map(TokenForm::word).collect(Collectors.toUnmodifiableSet());
    }
}

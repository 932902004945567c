package org.holtra.service.credentials;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** The forms of credential of all kinds, by name. Kinds that share a form take it from one place. */
@Component
public class CredentialForms {

    private final Map<String, CredentialForm> forms;

    CredentialForms(List<CredentialFormProvider> providers) {
        this.forms = providers.stream()
                .flatMap(provider -> provider.credentialForms().stream())
                .distinct()
                .collect(Collectors.toMap(
                        CredentialForm::word,
                        form -> form,
                        (first, second) -> {
                            throw new IllegalStateException("two forms of credential are named " + first.word());
                        },
                        TreeMap::new));
    }

    public List<CredentialForm> all() {
        return List.copyOf(forms.values());
    }

    public Optional<CredentialForm> find(String name) {
        return Optional.ofNullable(name).map(forms::get);
    }
}

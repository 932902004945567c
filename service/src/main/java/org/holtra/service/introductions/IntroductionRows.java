package org.holtra.service.introductions;

import java.util.Map;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.introduction.There;
import org.holtra.service.credentials.CredentialStore;
import org.springframework.stereotype.Component;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Introductions as they stand in the table, the secret of a device sealed. */
@Component
class IntroductionRows {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<Map<String, Object>> KEPT = new TypeReference<>() {};

    private final CredentialStore credentials;

    IntroductionRows(CredentialStore credentials) {
        this.credentials = credentials;
    }

    Introduction introduction(IntroductionMapper.Row row) {
        String sealedAs = sealedAs(row.outlet(), row.device());
        return new Introduction(
                row.outlet(),
                row.device(),
                IntroductionState.of(row.state()),
                row.name() == null ? null : new There(row.name(), row.thereId(), JSON.readValue(row.kept(), KEPT)),
                row.secret() == null ? null : credentials.opened(sealedAs, row.secret()),
                new Introduction.Progress(
                        StepName.of(row.step()).orElse(null),
                        row.existed(),
                        row.creating(),
                        row.anew(),
                        row.version(),
                        row.since(),
                        row.nextAt(),
                        row.attempts(),
                        row.revision()),
                row.reason() == null
                        ? null
                        : new Introduction.Refusal(Why.of(row.why()).orElse(null), row.reason()),
                new Introduction.Asked(row.askedBy(), row.job()));
    }

    IntroductionMapper.Row row(Introduction one) {
        Introduction.Progress progress = one.progress();
        return new IntroductionMapper.Row(
                one.outlet(),
                one.device(),
                one.state().word(),
                progress.step() == null ? null : progress.step().word(),
                one.there() == null ? null : one.there().name(),
                one.there() == null ? null : one.there().id(),
                JSON.writeValueAsString(
                        one.there() == null ? Map.of() : one.there().kept()),
                one.credential() == null
                        ? null
                        : credentials.sealed(sealedAs(one.outlet(), one.device()), one.credential()),
                progress.existed(),
                progress.creating(),
                progress.anew(),
                progress.version(),
                one.refusal() == null || one.refusal().why() == null
                        ? null
                        : one.refusal().why().word(),
                one.refusal() == null ? null : one.refusal().reason(),
                progress.since(),
                progress.next(),
                progress.attempts(),
                progress.revision(),
                one.asked().by(),
                one.asked().job());
    }

    /** Binds a secret to its device and outlet. */
    private static String sealedAs(String outlet, String device) {
        return outlet + "/" + device;
    }

    boolean isSealedWithOldKey(IntroductionMapper.Row row) {
        return row.secret() != null
                && credentials.isSealedWithOldKey(sealedAs(row.outlet(), row.device()), row.secret());
    }
}

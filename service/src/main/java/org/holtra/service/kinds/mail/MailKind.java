package org.holtra.service.kinds.mail;

import jakarta.mail.MessagingException;
import jakarta.mail.Transport;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.ShapeField;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.LoginForm;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.tls.TrustOffer;
import org.springframework.stereotype.Component;

/** The kind {@code mail}: messages become mail for people. */
@Component
class MailKind implements OutletKind {

    private final String reach;
    private final InstantSource clock;

    MailKind(HoltraSettings settings, InstantSource clock) {
        this.reach = settings.outletsReach();
        this.clock = clock;
    }

    @Override
    public String name() {
        return "mail";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.empty();
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(MailKind.class, "outlet.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(MailKind.class, "presets.json");
    }

    @Override
    public Set<String> outletCredentials() {
        return Set.of(LoginForm.WORD);
    }

    @Override
    public List<ShapeField> shapeFields() {
        return MailShape.FIELDS;
    }

    @Override
    public String address(Outlet outlet) {
        MailTarget target = MailTarget.of(outlet);
        return (target.to().isEmpty() ? "mail" : String.join(", ", target.to())) + " by " + target.host() + ":"
                + target.port();
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        MailTarget target = MailTarget.of(outlet);
        MailServer server = new MailServer(target, credential, reach);
        CheckSteps steps = new CheckSteps();
        try (Transport transport = server.connect()) {
            steps.passed("connected", "at " + target.host() + ", port " + target.port());
            if (target.security() != MailTarget.Security.NONE) {
                steps.passed("TLS", "the server's certificate is trusted");
            }
            steps.passed(
                    "signed in", credential == null ? "without a user" : "as user `" + credential.field("user") + "`");
            steps.uncertain("accepted", "whether the server takes mail for these addresses shows with the first", null);
        } catch (MessagingException e) {
            MailFailure failure = MailFailure.of(e, target, server.tls());
            if (failure.step().equals("signed in") || failure.step().equals("TLS")) {
                steps.passed("connected", "at " + target.host() + ", port " + target.port());
            }
            if (failure.authority() == null) {
                steps.failed(failure.step(), failure.words(), failure.mend());
            } else {
                steps.failed(
                        failure.step(), failure.words(), failure.mend(), TrustOffer.of("outlet", failure.authority()));
            }
        }
        return steps.all();
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        MailTarget target = MailTarget.of(outlet);
        return new MailSink(outlet, target, new MailServer(target, credential, reach), clock);
    }
}

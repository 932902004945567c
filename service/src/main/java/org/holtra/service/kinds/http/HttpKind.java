package org.holtra.service.kinds.http;

import java.time.InstantSource;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.stream.Collectors;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.ShapeField;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.CredentialFormProvider;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.OutletProposal;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.httpclient.BatchBody;
import org.holtra.service.httpclient.HttpCheck;
import org.holtra.service.httpclient.HttpCredential;
import org.holtra.service.httpclient.HttpCredentialForm;
import org.holtra.service.httpclient.HttpShape;
import org.holtra.service.httpclient.HttpSink;
import org.holtra.service.httpclient.HttpTarget;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.intake.SourceKind;
import org.holtra.service.kinds.http.pasting.Pasting;
import org.holtra.service.kinds.http.pasting.RequestProposal;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.reach.Reach;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.tls.ClientTls;
import org.holtra.service.tokens.TokenForms;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/** The kind {@code http}: senders post to us, and we to destinations. */
@Component
public class HttpKind implements SourceKind, OutletKind, CredentialFormProvider, AutoCloseable {

    private final HttpInlets inlets;
    private final InstantSource clock;
    private final Reach reach;
    private final boolean certificatesAsked;
    private final ScheduledExecutorService deadlines = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("http-deadlines").factory());

    /** @param certificatesAsked whether senders can show a certificate: TLS is on, and asks for one */
    HttpKind(
            HttpInlets inlets,
            InstantSource clock,
            HoltraSettings settings,
            @Value("${holtra.client-certificates:false}") boolean certificatesAsked) {
        this.certificatesAsked = certificatesAsked;
        this.inlets = inlets;
        this.clock = clock;
        this.reach = Reach.of(settings.outletsReach());
    }

    @Override
    public String name() {
        return "http";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.of(ClassPathText.beside(HttpKind.class, "inlet.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(HttpKind.class, "presets.json");
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(HttpKind.class, "outlet.form.json"));
    }

    @Override
    public List<CredentialForm> credentialForms() {
        return List.of(HttpCredentialForm.values());
    }

    @Override
    public Set<String> inletCredentials() {
        return words(EnumSet.complementOf(EnumSet.of(HttpCredentialForm.CERTIFICATE)));
    }

    @Override
    public Set<String> outletCredentials() {
        Set<String> all = words(HttpCredentialForm.presented());
        all.addAll(TokenForms.words());
        return all;
    }

    private static Set<String> words(Set<HttpCredentialForm> forms) {
        return forms.stream().map(HttpCredentialForm::word).collect(Collectors.toCollection(LinkedHashSet::new));
    }

    @Override
    public List<ShapeField> shapeFields() {
        return HttpShape.FIELDS;
    }

    @Override
    public boolean introduces() {
        return true;
    }

    @Override
    public List<String> batchForms() {
        return BatchBody.words();
    }

    @Override
    public List<Clash> clashes(Map<String, Map<String, Object>> all) {
        Map<Object, String> firsts = new HashMap<>();
        List<Clash> clashes = new ArrayList<>();
        all.forEach((name, at) -> {
            String first =
                    firsts.putIfAbsent(InletPath.of((String) at.get("path")).shape(), name);
            if (first != null) {
                clashes.add(new Clash(name, "path", "inlet `" + first + "` takes these requests already"));
            }
        });
        return clashes;
    }

    @Override
    public List<CheckStep> check(Inlet inlet, Credential credential) {
        CheckSteps steps = new CheckSteps();
        String path = HttpInletServlet.ROOT + "/" + inlet.at().get("path");
        inlets.holder((String) inlet.at().get("path"))
                .filter(name -> !name.equals(inlet.name()))
                .ifPresentOrElse(
                        other -> steps.failed(
                                "path",
                                path + " is that of inlet " + other,
                                "Choose another path, or close " + other + "."),
                        () -> steps.passed("path", path));
        if (credential == null) {
            steps.failed(
                    "sender check",
                    "there is no credential called " + inlet.at().get("credential"),
                    "Create it, or choose another.");
        } else if (HttpCredential.of(credential).orElse(null) instanceof HttpCredential.PathPart
                && !InletPath.of((String) inlet.at().get("path")).hasSecret()) {
            steps.failed(
                    "sender check",
                    "credential " + inlet.at().get("credential")
                            + " is a part of the path, and the inlet's path has no {secret}",
                    "Put {secret} into the path, such as " + inlet.at().get("path") + "/{secret}.");
        } else if (credential.form().equals(HttpCredentialForm.AUTHORITY.word()) && !certificatesAsked) {
            steps.failed(
                    "sender check",
                    "this service does not ask senders for certificates",
                    "Start it with TLS (HOLTRA_TLS_CERTIFICATE) and HOLTRA_TLS_CLIENT_CERTIFICATES=true.");
        } else {
            steps.passed("sender check", "senders present a credential of the form " + credential.form());
        }
        return steps.all();
    }

    @Override
    public Source open(SourceContext context) {
        return inlets.open(context);
    }

    /** Those who post here are told to come again, and not all of them do: what they send is spooled. */
    @Override
    public boolean canWait() {
        return false;
    }

    @Override
    public boolean answersWhileClosed() {
        return true;
    }

    @Override
    public boolean addressIsPath() {
        return true;
    }

    @Override
    public boolean overlaps() {
        return true;
    }

    @Override
    public String address(Inlet inlet) {
        return HttpInletServlet.ROOT + "/" + inlet.at().get("path");
    }

    @Override
    public Optional<String> exampleCommand(Inlet inlet, Credential credential) {
        return Optional.of(ExampleCommand.of(
                inlet.name(), (String) inlet.at().get("path"), HttpInlets.methods(inlet), credential));
    }

    @Override
    public String takesApart() {
        return Pasting.TAKES;
    }

    @Override
    public Optional<OutletProposal> proposal(String pasted) {
        return Pasting.apart(pasted).map(RequestProposal::outlet);
    }

    @Override
    public String address(Outlet outlet) {
        return String.valueOf(outlet.to().get("url"));
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        HttpTarget target = HttpTarget.of(outlet, credential);
        ClientTls tls = target.tls((String) outlet.to().get("authority"));
        try (HttpSink sink = new HttpSink(target, outlet, tls, new HttpSink.Surroundings(clock, deadlines, reach))) {
            return new HttpCheck(target, new CheckedAddresses(reach), sink, tls).run();
        }
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        HttpTarget target = HttpTarget.of(outlet, credential);
        return new HttpSink(
                target,
                outlet,
                target.tls((String) outlet.to().get("authority")),
                new HttpSink.Surroundings(clock, deadlines, reach));
    }

    @Override
    public void close() {
        deadlines.shutdownNow();
    }
}

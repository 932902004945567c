package org.holtra.service.kinds.sample;

import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.intake.SourceKind;
import org.springframework.stereotype.Component;

/** The kind {@code sample}: made-up stations send, and a made-up destination takes, so that a new instance shows something. */
@Component
class SampleKind implements SourceKind, OutletKind {

    private final InstantSource clock;

    SampleKind(InstantSource clock) {
        this.clock = clock;
    }

    @Override
    public String name() {
        return "sample";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.of(ClassPathText.beside(SampleKind.class, "inlet.form.json"));
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(SampleKind.class, "outlet.form.json"));
    }

    @Override
    public Placement placement(Inlet inlet) {
        return Placement.ONE_NODE;
    }

    @Override
    public String address(Inlet inlet) {
        return "made-up stations";
    }

    @Override
    public List<CheckStep> check(Inlet inlet, Credential credential) {
        CheckSteps steps = new CheckSteps();
        steps.passed("stations", "they are made up, and need nothing");
        return steps.all();
    }

    @Override
    public Source open(SourceContext context) {
        return SampleSource.start(context, clock);
    }

    @Override
    public String address(Outlet outlet) {
        return "made-up destination";
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        CheckSteps steps = new CheckSteps();
        steps.passed("destination", "it is made up, and takes everything");
        return steps.all();
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        return new SampleSink();
    }
}

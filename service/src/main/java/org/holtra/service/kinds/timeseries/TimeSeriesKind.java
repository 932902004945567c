package org.holtra.service.kinds.timeseries;

import java.time.InstantSource;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.dispatch.Tag;
import org.holtra.service.httpclient.HttpCheck;
import org.holtra.service.httpclient.HttpCredentialForm;
import org.holtra.service.httpclient.HttpSink;
import org.holtra.service.httpclient.HttpTarget;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.reach.Reach;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.tls.ClientTls;
import org.holtra.service.tokens.TokenForms;
import org.springframework.stereotype.Component;

/** The kind {@code timeseries}: points are written over HTTP as lines. */
@Component
class TimeSeriesKind implements OutletKind, AutoCloseable {

    private final InstantSource clock;
    private final Reach reach;
    private final ScheduledExecutorService deadlines = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("timeseries-deadlines").factory());

    TimeSeriesKind(HoltraSettings settings, InstantSource clock) {
        this.clock = clock;
        this.reach = Reach.of(settings.outletsReach());
    }

    @Override
    public String name() {
        return "timeseries";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.empty();
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(TimeSeriesKind.class, "outlet.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(TimeSeriesKind.class, "presets.json");
    }

    @Override
    public Set<String> outletCredentials() {
        return Stream.concat(
                        HttpCredentialForm.presented().stream().map(HttpCredentialForm::word),
                        TokenForms.words().stream())
                .collect(Collectors.toCollection(LinkedHashSet::new));
    }

    @Override
    public String address(Outlet outlet) {
        return String.valueOf(outlet.to().get("url"));
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        HttpTarget target = HttpTarget.of(outlet, credential);
        ClientTls tls = target.tls((String) outlet.to().get("authority"));
        try (HttpSink sink = sink(outlet, target, tls)) {
            return new HttpCheck(target, new CheckedAddresses(reach), sink, tls).run();
        }
    }

    @Override
    public boolean knowsTags() {
        return true;
    }

    @Override
    public List<Tag> tags(Outlet outlet, Content content) {
        return format(outlet).tags(content.body());
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        HttpTarget target = HttpTarget.of(outlet, credential);
        return new TimeSeriesSink(format(outlet), sink(outlet, target, target.tls((String)
                outlet.to().get("authority"))));
    }

    private static LineFormat format(Outlet outlet) {
        Map<String, Object> to = outlet.to();
        Set<String> whole = to.get("wholeNumbers") instanceof List<?> names
                ? names.stream().map(String::valueOf).collect(Collectors.toSet())
                : Set.of();
        return new LineFormat((String) to.get("measurement"), whole);
    }

    private HttpSink sink(Outlet outlet, HttpTarget target, ClientTls tls) {
        return new HttpSink(target, outlet, tls, new HttpSink.Surroundings(clock, deadlines, reach));
    }

    @Override
    public void close() {
        deadlines.shutdownNow();
    }
}

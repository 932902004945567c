package org.holtra.service.kinds.sparkplug;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.BrokerCheck;
import org.holtra.service.brokers.Brokers;
import org.holtra.service.brokers.OutletPublishing;
import org.holtra.service.brokers.TopicPattern;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.dispatch.Tag;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.intake.SourceKind;
import org.springframework.stereotype.Component;

/** The kind {@code sparkplug}: Sparkplug B 3.0 (ISO/IEC 20237) over a broker that is shared with others. */
@Component
class SparkplugKind implements SourceKind, OutletKind {

    /** The kind of connection it needs: Sparkplug is spoken over MQTT. */
    private static final String SHARED = "mqtt";

    private final Brokers brokers;

    SparkplugKind(Brokers brokers) {
        this.brokers = brokers;
    }

    @Override
    public String name() {
        return "sparkplug";
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.of(ClassPathText.beside(SparkplugKind.class, "inlet.form.json"));
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(SparkplugKind.class, "outlet.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(SparkplugKind.class, "presets.json");
    }

    @Override
    public Optional<String> sharedKind() {
        return Optional.of(SHARED);
    }

    /** Whom a message is of, what it is and when it was measured stands beside its metrics. */
    @Override
    public Map<String, Object> readingUnlessSaid() {
        Map<String, Object> said = new LinkedHashMap<>();
        said.put("format", "json");
        said.put("device", "meta.edge");
        said.put("type", "meta.type");
        said.put("time", "meta.at");
        return said;
    }

    /** Two nodes would be two hosts of one id. */
    @Override
    public Placement placement(Inlet inlet) {
        return Placement.ONE_NODE;
    }

    @Override
    public String address(Inlet inlet) {
        return SparkplugSource.groups(inlet).stream()
                        .map(group -> SparkplugTopic.NAMESPACE + "/" + group)
                        .collect(Collectors.joining(", "))
                + " at " + inlet.connection().name();
    }

    @Override
    public List<CheckStep> check(Inlet inlet, Credential credential) {
        try {
            return new BrokerCheck(
                            brokers.session().clients(),
                            Broker.of(inlet.connection(), credential),
                            SparkplugSource.session(inlet, brokers.clock().millis()))
                    .run(
                            SparkplugSource.filters(inlet).stream()
                                    .map(TopicPattern::of)
                                    .toList(),
                            1);
        } catch (IllegalArgumentException e) {
            return BrokerCheck.unreadable(e);
        }
    }

    @Override
    public Source open(SourceContext context) {
        return SparkplugSource.start(context, brokers);
    }

    @Override
    public String address(Outlet outlet) {
        EdgeTarget target = EdgeTarget.of(outlet, brokers.node());
        return "edge node " + target.group() + "/" + target.node() + " at "
                + outlet.connection().name();
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        return OutletPublishing.check(outlet, credential, brokers);
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        return SparkplugSink.start(
                outlet, Broker.of(outlet.connection(), credential), OutletPublishing.session(outlet), brokers);
    }

    @Override
    public boolean knowsTags() {
        return true;
    }

    @Override
    public List<Tag> tags(Outlet outlet, Content content) {
        EdgeReading reading = EdgeReading.of(content.body());
        return reading.metrics().entrySet().stream()
                .map(metric -> new Tag(reading.device() + "/" + metric.getKey(), metric.getValue()))
                .toList();
    }
}

package org.holtra.service.kinds.mqtt;

import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.SharedConnection;
import org.holtra.core.shape.ShapeField;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.BrokerCheck;
import org.holtra.service.brokers.BrokerRefused;
import org.holtra.service.brokers.Brokers;
import org.holtra.service.brokers.OutletPublishing;
import org.holtra.service.brokers.Session;
import org.holtra.service.brokers.TopicPattern;
import org.holtra.service.brokers.TopicTree;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.CredentialFormProvider;
import org.holtra.service.credentials.LoginForm;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.intake.SourceKind;
import org.holtra.service.sharing.Look;
import org.holtra.service.sharing.LookFailed;
import org.holtra.service.sharing.SharedConnectionKind;
import org.springframework.stereotype.Component;

/** The kind {@code mqtt}: brokers that inlets and outlets share, topics that are subscribed to, and topics published to. */
@Component
class MqttKind implements SourceKind, OutletKind, SharedConnectionKind, CredentialFormProvider {

    private static final String NAME = "mqtt";
    private static final int SHOWN_OF_A_LEVEL = 100;
    private static final int SHOWN = 2_000;

    private final Brokers brokers;

    MqttKind(Brokers brokers) {
        this.brokers = brokers;
    }

    @Override
    public String name() {
        return NAME;
    }

    @Override
    public Optional<String> inletForm() {
        return Optional.of(ClassPathText.beside(MqttKind.class, "inlet.form.json"));
    }

    @Override
    public Optional<String> outletForm() {
        return Optional.of(ClassPathText.beside(MqttKind.class, "outlet.form.json"));
    }

    @Override
    public Optional<String> connectionForm() {
        return Optional.of(ClassPathText.beside(MqttKind.class, "connection.form.json"));
    }

    @Override
    public String presets() {
        return ClassPathText.beside(MqttKind.class, "presets.json");
    }

    @Override
    public Optional<String> sharedKind() {
        return Optional.of(NAME);
    }

    @Override
    public List<CredentialForm> credentialForms() {
        return List.of(new BundleForm());
    }

    @Override
    public Set<String> connectionCredentials() {
        return new LinkedHashSet<>(List.of(LoginForm.WORD, BundleForm.WORD));
    }

    @Override
    public List<ShapeField> shapeFields() {
        return MqttShape.FIELDS;
    }

    @Override
    public List<Clash> clashes(Map<String, Map<String, Object>> inlets) {
        List<Clash> wrong = new ArrayList<>();
        inlets.forEach((name, at) -> {
            if (at.get("topics") instanceof List<?> topics) {
                topics.forEach(topic -> {
                    try {
                        TopicPattern.of(String.valueOf(topic));
                    } catch (IllegalArgumentException e) {
                        wrong.add(new Clash(name, "topics", e.getMessage()));
                    }
                });
            }
        });
        return wrong;
    }

    /** Where the broker does not divide messages among those that share, two nodes would each get all of them. */
    @Override
    public Placement placement(Inlet inlet) {
        return inlet.at().get("share") == null ? Placement.ONE_NODE : Placement.EVERY_NODE;
    }

    @Override
    public Source open(SourceContext context) {
        return MqttSource.start(context, brokers);
    }

    @Override
    public String address(Inlet inlet) {
        List<String> topics =
                MqttSource.topics(inlet).stream().map(TopicPattern::written).toList();
        return (topics.isEmpty() ? "no topics" : String.join(", ", topics)) + " at "
                + inlet.connection().name();
    }

    @Override
    public List<CheckStep> check(Inlet inlet, Credential credential) {
        try {
            return new BrokerCheck(
                            brokers.session().clients(),
                            Broker.of(inlet.connection(), credential),
                            MqttSource.session(inlet, brokers.node()))
                    .run(
                            MqttSource.topics(inlet),
                            inlet.at().get("qos") instanceof Number number ? number.intValue() : 1);
        } catch (IllegalArgumentException e) {
            return BrokerCheck.unreadable(e);
        }
    }

    @Override
    public String address(Outlet outlet) {
        MqttTarget target = MqttTarget.of(outlet);
        return target.base() + (target.topic() == null ? "…" : target.topic()) + " at "
                + outlet.connection().name();
    }

    @Override
    public List<CheckStep> check(Outlet outlet, Credential credential) {
        return OutletPublishing.check(outlet, credential, brokers);
    }

    @Override
    public Sink open(Outlet outlet, Credential credential) {
        return MqttSink.start(
                outlet, Broker.of(outlet.connection(), credential), OutletPublishing.session(outlet), brokers);
    }

    @Override
    public String address(SharedConnection connection) {
        return String.valueOf(connection.to().get("address"));
    }

    @Override
    public List<CheckStep> check(SharedConnection connection, Credential credential) {
        try {
            return new BrokerCheck(brokers.session().clients(), Broker.of(connection, credential), looking(connection))
                    .run(List.of(), 0);
        } catch (IllegalArgumentException e) {
            return BrokerCheck.unreadable(e);
        }
    }

    private static Session looking(SharedConnection connection) {
        return Session.of(Map.of(), connection.to(), "holtra-" + connection.name(), true);
    }

    @Override
    public Look look(SharedConnection connection, Credential credential, String within, Duration time)
            throws LookFailed {
        String filter = within.isBlank() ? "#" : TopicPattern.of(within.strip()).filter();
        Broker broker = Broker.of(connection, credential);
        try {
            long began = System.nanoTime();
            TopicTree tree = brokers.surveys().look(broker, looking(connection), List.of(filter), time);
            return tree.look(filter, (System.nanoTime() - began) / 1e9, SHOWN_OF_A_LEVEL, SHOWN);
        } catch (BrokerRefused e) {
            throw new LookFailed(e.failure().words(), e.failure().mend());
        }
    }
}

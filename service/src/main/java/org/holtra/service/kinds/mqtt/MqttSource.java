package org.holtra.service.kinds.mqtt;

import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.core.setup.Inlet;
import org.holtra.core.text.DurationText;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.BrokerClient;
import org.holtra.service.brokers.BrokerRefused;
import org.holtra.service.brokers.BrokerSession;
import org.holtra.service.brokers.Brokers;
import org.holtra.service.brokers.Handover;
import org.holtra.service.brokers.Incoming;
import org.holtra.service.brokers.InletStanding;
import org.holtra.service.brokers.ReasonCode;
import org.holtra.service.brokers.Session;
import org.holtra.service.brokers.TopicPattern;
import org.holtra.service.brokers.TopicTree;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.intake.Receipt;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Takes what a broker sends on the topics of an inlet, and acknowledges each message once it is durable. */
final class MqttSource implements Source, BrokerSession.Use, Handover.Taker {

    private static final Duration PAUSE_AFTER_A_FAILURE = Duration.ofSeconds(1);

    /** So long nothing may come until it is looked what does come at the broker. */
    private static final Duration USUAL_QUIET = Duration.ofSeconds(30);

    /** Some devices speak a few times a minute only. */
    private static final Duration LONGEST_LOOK = Duration.ofSeconds(25);

    private static final Duration LOOK_AGAIN = Duration.ofMinutes(5);

    /** So many topics of almost the same name are told. */
    private static final int NEAREST = 3;

    private static final Logger log = LoggerFactory.getLogger(MqttSource.class);

    private final SourceContext context;
    private final Brokers brokers;
    private final InletStanding standing;
    private final Broker broker;
    private final List<TopicPattern> topics;
    private final int qos;
    private final String share;
    private final boolean takesRetained;
    private final Duration quiet;
    private final Session settings;
    private final BrokerSession session;
    private final Handover handover;
    private volatile boolean heard;

    /** What the broker takes of what was asked for; what else there is to say of it. */
    private volatile String subscription = "";

    private volatile String silence = "";
    private volatile String near = "";
    private volatile ScheduledFuture<?> nextLook;

    private MqttSource(SourceContext context, Brokers brokers) {
        Inlet inlet = context.inlet();
        Map<String, Object> at = inlet.at();
        this.context = context;
        this.brokers = brokers;
        this.standing = new InletStanding(context, brokers);
        this.broker = Broker.of(inlet.connection(), context.credential().orElse(null));
        this.topics = topics(inlet);
        this.qos = at.get("qos") instanceof Number number ? number.intValue() : 1;
        this.share = (String) at.get("share");
        this.quiet = at.get("quiet") instanceof String text ? DurationText.parse(text) : USUAL_QUIET;
        this.takesRetained = !"ignore".equals(at.get("retained"));
        this.settings = session(inlet, brokers.node());
        this.session = new BrokerSession(broker, settings, this, brokers.session());
        this.handover = new Handover("mqtt-inlet-" + inlet.name(), this, PAUSE_AFTER_A_FAILURE);
    }

    /** @throws IllegalArgumentException if its address, a topic or a certificate cannot be read */
    static MqttSource start(SourceContext context, Brokers brokers) {
        MqttSource source = new MqttSource(context, brokers);
        source.session.start();
        return source;
    }

    static List<TopicPattern> topics(Inlet inlet) {
        return inlet.at().get("topics") instanceof List<?> all
                ? all.stream().map(one -> TopicPattern.of(String.valueOf(one))).toList()
                : List.of();
    }

    /** On one node after the other a client goes on under one id; of several nodes that share, each has its own. */
    static Session session(Inlet inlet, String node) {
        boolean shared = inlet.at().get("share") != null;
        Session session = Session.of(
                inlet.at(),
                inlet.connection().to(),
                "holtra-" + inlet.name(),
                "clean".equals(inlet.at().get("session")));
        return shared ? session.named(session.clientId() + "-" + node) : session;
    }

    private List<String> filters() {
        return topics.stream().map(topic -> filter(topic.filter())).toList();
    }

    private String filter(String bare) {
        return share == null ? bare : "$share/" + share + "/" + bare;
    }

    @Override
    public void opened(BrokerClient client, boolean remembered) {
        if (remembered) {
            handover.only(client);
        }
        if (topics.isEmpty()) {
            stands(State.CONNECTED, "it subscribes to nothing: name topics, or look around and tick some", null);
            return;
        }
        // The client's own thread must not wait for the database.
        Thread.startVirtualThread(() -> {
            try {
                subscribe(client, remembered);
            } catch (RuntimeException e) {
                log.error("Inlet {} could not subscribe", context.inlet().name(), e);
                stands(State.WAITING, "it could not subscribe: " + e.getMessage(), e.toString());
            }
        });
    }

    private void subscribe(BrokerClient client, boolean remembered) {
        Subscribed wanted = new Subscribed(qos, filters());
        Subscribed before = remembered ? subscribed() : Subscribed.NONE;
        List<String> gone = before.without(wanted);
        if (!gone.isEmpty()) {
            client.unsubscribe(gone).join();
        }
        // A broker of MQTT 3.1.1 sends all that it has retained anew for each subscription, also for one that it knows.
        if (broker.version() == 3 && before.covers(wanted)) {
            subscribed(
                    client, wanted, wanted.filters().stream().map(filter -> 0).toList());
            return;
        }
        remember(wanted);
        client.subscribe(wanted.filters(), qos).whenComplete((codes, failure) -> {
            if (failure == null) {
                subscribed(client, wanted, codes);
            }
            // Else the connection is gone, which its session tells.
        });
    }

    private Subscribed subscribed() {
        try {
            return Subscribed.of(context.cursor());
        } catch (RuntimeException e) {
            log.warn(
                    "What inlet {} had subscribed to is not known: {}",
                    context.inlet().name(),
                    e.toString());
            return Subscribed.NONE;
        }
    }

    /** So that a later start of the service knows what the broker remembers. */
    private void remember(Subscribed wanted) {
        try {
            String before = context.cursor();
            if (!wanted.text().equals(before)) {
                context.takePage(List.of(), before, wanted.text());
            }
        } catch (RuntimeException e) {
            log.warn(
                    "What inlet {} subscribes to is not remembered: {}",
                    context.inlet().name(),
                    e.toString());
        }
    }

    private void subscribed(BrokerClient client, Subscribed wanted, List<Integer> codes) {
        List<String> taken = new ArrayList<>();
        List<String> refused = new ArrayList<>();
        for (int i = 0; i < codes.size(); i++) {
            String topic = "`" + topics.get(i).written() + "`";
            if (codes.get(i) < ReasonCode.FAILURE) {
                taken.add(topic);
            } else {
                refused.add(topic + " (" + ReasonCode.words(codes.get(i)) + ")");
            }
        }
        if (taken.isEmpty()) {
            stands(State.REFUSED, "the broker refuses " + String.join(", ", refused), null);
            return;
        }
        subscription = "subscribed to " + String.join(", ", taken)
                + (refused.isEmpty() ? "" : "; the broker refuses " + String.join(", ", refused));
        silence = "";
        near = "";
        heard = false;
        tellConnected();
        lookLater(quiet);
    }

    private void tellConnected() {
        stands(State.CONNECTED, subscription + silence + near, null);
    }

    private void lookLater(Duration after) {
        if (!standing.isClosed()) {
            nextLook = brokers.session()
                    .later()
                    .schedule(
                            () -> Thread.startVirtualThread(this::lookForMore),
                            after.toMillis(),
                            TimeUnit.MILLISECONDS);
        }
    }

    /** Perhaps something comes under topics that are written a little differently. */
    private void lookForMore() {
        if (standing.isClosed() || session.standing().client().isEmpty()) {
            return;
        }
        try {
            TopicTree tree = brokers.surveys()
                    .look(broker, settings, List.of("#"), quiet.compareTo(LONGEST_LOOK) < 0 ? quiet : LONGEST_LOOK);
            List<String> nearest = NearTopics.of(topics, tree.topics(), NEAREST);
            near = nearest.isEmpty()
                    ? ""
                    : "; near it, "
                            + nearest.stream().map(topic -> "`" + topic + "`").collect(Collectors.joining(", "))
                            + (nearest.size() == 1 ? " carries" : " carry") + " traffic";
        } catch (BrokerRefused e) {
            log.debug("What else {} carries cannot be seen: {}", broker.address(), e.getMessage());
        }
        if (standing.isClosed() || session.standing().client().isEmpty()) {
            return;
        }
        silence = heard ? "" : ", and nothing has come";
        tellConnected();
        if (!heard) {
            lookLater(LOOK_AGAIN);
        }
    }

    @Override
    public void arrived(BrokerClient over, Incoming message) {
        if (message.retained() && !takesRetained) {
            message.acknowledge().run();
            return;
        }
        if (!heard) {
            heard = true;
            silence = "";
            tellConnected();
        }
        handover.offer(message, over);
        standing.lost(handover.lost());
    }

    @Override
    public CompletableFuture<Receipt> take(Incoming message) {
        return context.take(new Arrival(
                context.nextId(),
                context.inlet().name(),
                transport(message),
                message.contentType(),
                message.payload()));
    }

    private Transport transport(Incoming message) {
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("topic", message.topic());
        fields.put("path", names(message.topic()));
        fields.put("qos", (long) message.qos());
        fields.put("retained", message.retained());
        if (!message.properties().isEmpty()) {
            fields.put("properties", message.properties());
        }
        return new Transport(
                broker.address().host(), message.topic(), message.properties().get("traceparent"), fields);
    }

    private Map<String, Object> names(String topic) {
        return topics.stream()
                .map(pattern -> pattern.names(topic))
                .flatMap(Optional::stream)
                .findFirst()
                .orElse(Map.of());
    }

    @Override
    public void kept(Receipt receipt) {
        standing.kept(receipt);
    }

    @Override
    public void notKept(Throwable why) {
        standing.notKept(why);
    }

    @Override
    public void stands(State state, String reason, String detail) {
        standing.stands(state, reason, detail);
    }

    @Override
    public void pause() {
        handover.pause(true);
    }

    @Override
    public void resume() {
        handover.pause(false);
        if (session.standing().client().isPresent()) {
            tellConnected();
        }
    }

    @Override
    public void close() {
        end(false);
    }

    /** The broker would go on keeping messages for this client, which nobody fetches. */
    @Override
    public void forget() {
        session.standing().client().ifPresent(client -> {
            try {
                client.unsubscribe(filters()).get(2, TimeUnit.SECONDS);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            } catch (java.util.concurrent.ExecutionException | java.util.concurrent.TimeoutException e) {
                log.warn(
                        "Inlet {} may still be subscribed at {}",
                        context.inlet().name(),
                        broker.address());
            }
        });
        end(true);
    }

    private void end(boolean forget) {
        ScheduledFuture<?> look = nextLook;
        if (look != null) {
            look.cancel(false);
        }
        handover.close();
        session.close(forget);
        standing.close();
    }
}

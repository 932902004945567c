package org.holtra.service.api;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.Meta;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Layout;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.dispatch.SentRequest;
import org.holtra.service.history.LaneState;
import org.holtra.service.history.Records;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.entry.AttemptRow;
import org.holtra.service.journal.entry.Replay;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.lookouts.Alarm;
import org.holtra.service.lookouts.Alarms;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * Puts the journey of a message together. Why a lane did not take it is worked out again, from the setup and the facts of
 * the device as they were then, so that taking a message in does not pay for reasons that are seldom asked for.
 */
@Component
class Traces {

    /**
     * @param data as expressions saw them; null if the message was not read
     * @param units of its fields that have one, as UCUM codes
     * @param duplicates that came after it
     * @param alarms that it caused, or that it tells of
     * @param trials what people sent of it to see what comes back
     * @param codec what decoded the payload, in words; null if nothing did
     * @param parts the messages that it was taken apart into, in their order
     * @param whole the arrival that it is a part of; null if it came by itself
     */
    record Trace(
            MessageView message,
            Came came,
            Object data,
            Map<String, Object> meta,
            Map<String, Object> device,
            int setupRevision,
            String codec,
            Map<String, String> units,
            List<DuplicateView> duplicates,
            List<LaneTrace> lanes,
            List<AttemptView> trials,
            List<Replayed> replays,
            List<String> madeOf,
            List<String> splitInto,
            List<MessageView> parts,
            String whole,
            List<Alarm> alarms) {}

    /** @param name of the replay */
    record Replayed(String name, String lane, String outlet, String state, Instant at, String reason) {}

    /** @param gateway that it came by, where its inlet tells one */
    record DuplicateView(String id, Instant received, String gateway) {}

    /**
     * @param address where it arrived: a path, a topic, a file
     * @param fields what the transport told besides, such as headers
     * @param text the body if it is UTF-8, else null
     * @param base64 the body if it is not, else null
     */
    record Came(
            String remote,
            String address,
            String contentType,
            Map<String, Object> fields,
            String text,
            String base64) {}

    /**
     * @param point of the device; null if it is about the message as a whole
     * @param values the fields its condition reads, with their values and units, in words; null if that is not known
     * @param whyNot null if the lane took the message
     * @param state of the delivery; null if there is none
     * @param at since when it is so; when it waits, when it may be tried next
     * @param into what the lane made of it and others; null if it goes by itself
     */
    record LaneTrace(
            String lane,
            String point,
            String outlet,
            boolean picked,
            String pick,
            String values,
            String whyNot,
            String state,
            Instant at,
            String reason,
            String into,
            List<AttemptView> attempts) {}

    /**
     * @param code what the destination answered in its protocol's own words; null if nothing came
     * @param request as sent, with secrets masked
     * @param body the body as sent
     * @param answer the beginning of what came back
     */
    record AttemptView(
            int number,
            Instant at,
            long micros,
            String verdict,
            String reason,
            String code,
            Instant nextTry,
            int setupRevision,
            String outlet,
            String lane,
            String point,
            String replay,
            SentRequest request,
            String body,
            String answer) {}

    /** No inlet looks for duplicates longer than this. */
    private static final Duration DUPLICATES_WITHIN = Duration.ofDays(1);

    private static final Logger log = LoggerFactory.getLogger(Traces.class);
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Records records;
    private final Setups setups;
    private final DeviceRegistry devices;
    private final Readings readings;
    private final Alarms alarms;
    private final Introductions introductions;

    Traces(
            Records records,
            Setups setups,
            DeviceRegistry devices,
            Readings readings,
            Alarms alarms,
            Introductions introductions) {
        this.introductions = introductions;
        this.alarms = alarms;
        this.records = records;
        this.setups = setups;
        this.devices = devices;
        this.readings = readings.forTries();
    }

    Trace of(StoredMessage stored) {
        var states = records.states(List.of(stored.id()));
        List<LaneState> known = told(states.getOrDefault(stored.id().value(), List.of())).stream()
                .map(state -> stands(state, stored.device()))
                .toList();
        List<AttemptRow> attempts = records.attempts(stored.id());
        Optional<Scope> scope = scope(stored);
        return new Trace(
                MessageView.of(stored, states),
                came(stored),
                scope.map(one -> Plain.of(one.data())).orElse(null),
                plainMap(scope.<Object>map(Scope::meta).orElseGet(() -> Meta.of(stored.arrival()))),
                plainMap(scope.<Object>map(Scope::device).orElse(Map.of())),
                stored.setupRevision(),
                scope.flatMap(one -> codec(stored, one)).orElse(null),
                scope.map(Scope::units).orElse(Map.of()),
                duplicates(stored),
                lanes(stored, scope, known, attempts),
                attempts.stream().filter(AttemptRow::trial).map(Traces::attempt).toList(),
                known.stream()
                        .filter(one -> one.replay() != null)
                        .map(one -> new Replayed(
                                Replay.read(one.replay()).name(),
                                one.lane(),
                                one.outlet(),
                                one.state(),
                                one.at(),
                                one.reason()))
                        .toList(),
                stored.state().equals(StoredMessage.MADE) ? records.madeOf(stored) : List.of(),
                known.stream().anyMatch(one -> one.state().equals("split"))
                        ? records.splitInto(stored.id())
                        : List.of(),
                parts(stored),
                stored.arrival().isPart() ? stored.arrival().whole().toString() : null,
                alarms.ofMessage(stored.id().value()));
    }

    /** Of what waits for the database, which is not asked: it may be away. */
    Trace ofSpooled(StoredMessage stored) {
        return new Trace(
                MessageView.of(stored, Map.of()),
                came(stored),
                null,
                plainMap(Meta.of(stored.arrival())),
                Map.of(),
                stored.setupRevision(),
                null,
                Map.of(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                stored.arrival().isPart() ? stored.arrival().whole().toString() : null,
                List.of());
    }

    private List<MessageView> parts(StoredMessage stored) {
        if (!stored.state().equals(StoredMessage.WHOLE)) {
            return List.of();
        }
        List<StoredMessage> parts = records.parts(stored.id());
        var states = records.states(parts.stream().map(StoredMessage::id).toList());
        return parts.stream().map(part -> MessageView.of(part, states)).toList();
    }

    /** What a lane is still to make has no trace to look at. */
    private List<LaneState> told(List<LaneState> known) {
        Set<UUID> made = records.existing(known.stream()
                .filter(one -> one.into() != null)
                .map(one -> new MessageId(one.into()))
                .toList());
        return known.stream()
                .map(one -> one.into() == null || made.contains(one.into()) ? one : one.notMadeYet())
                .toList();
    }

    private List<DuplicateView> duplicates(StoredMessage stored) {
        if (stored.duplicateKey() == null || stored.duplicateOf() != null) {
            return List.of();
        }
        Setup setup = setupOf(stored);
        return records.duplicates(stored.id(), DUPLICATES_WITHIN).stream()
                .map(duplicate -> new DuplicateView(
                        duplicate.id().toString(), duplicate.id().received(), gateway(duplicate, setup)))
                .toList();
    }

    private String gateway(StoredMessage duplicate, Setup setup) {
        try {
            Object gateway = readings.again(duplicate, setup).meta().get("gateway");
            return gateway == null ? null : Plain.text(gateway);
        } catch (UnreadableContent e) {
            log.debug("The duplicate {} cannot be read: {}", duplicate.id(), e.getMessage());
            return null;
        }
    }

    /** Where a payload was decoded, its fields are the data and the content is the envelope. */
    private Optional<String> codec(StoredMessage stored, Scope scope) {
        if (!scope.meta().containsKey(Meta.ENVELOPE)) {
            return Optional.empty();
        }
        Setup setup = setupOf(stored);
        Optional<Model> model = Optional.ofNullable(
                        setup.models().get(String.valueOf(scope.device().get("model"))))
                .filter(one -> one.codec() != null);
        return model.map(one -> kind(one.codec()) + " of model " + one.name())
                .or(() -> setup.inlet(stored.arrival().inlet())
                        .map(inlet -> inlet.contents().payload())
                        .filter(payload -> payload.codec() != null)
                        .map(payload -> kind(payload.codec()) + " of inlet "
                                + stored.arrival().inlet()));
    }

    /** The setup a message was read by; the one of now where that one no longer compiles. */
    private Setup setupOf(StoredMessage stored) {
        return setups.compiled(stored.setupRevision()).orElseGet(setups::current);
    }

    private static String kind(Codec codec) {
        return switch (codec) {
            case Layout layout -> "layout";
            case Script script -> "script";
        };
    }

    private Optional<Scope> scope(StoredMessage stored) {
        if (!stored.readable()) {
            return Optional.empty();
        }
        Setup setup = setupOf(stored);
        try {
            Message message = readings.again(stored, setup);
            Device device = stored.device() == null || stored.deviceRevision() == null
                    ? null
                    : devices.at(stored.device(), stored.deviceRevision()).orElse(null);
            return Optional.of(readings.scope(message, device, setup));
        } catch (UnreadableContent e) {
            log.info("Message {} was read once and cannot be read as it was then: {}", stored.id(), e.getMessage());
            return Optional.empty();
        }
    }

    private Model model(StoredMessage stored, Setup setup) {
        return stored.device() == null
                ? null
                : Readings.model(devices.find(stored.device()).orElse(null), setup);
    }

    private List<LaneTrace> lanes(
            StoredMessage stored, Optional<Scope> scope, List<LaneState> known, List<AttemptRow> attempts) {
        Map<String, Picker.Decision> decisions = new LinkedHashMap<>();
        Optional<Setup> setup = setups.compiled(stored.setupRevision());
        scope.ifPresent(seen ->
                setup.ifPresent(then -> Picker.decisions(then, stored.arrival().inlet(), seen, model(stored, then))
                        .forEach(decision -> decisions.put(decision.lane().name(), decision))));
        Set<String> names = new LinkedHashSet<>(stored.lanes());
        names.addAll(decisions.keySet());
        List<LaneTrace> lanes = new ArrayList<>();
        for (String name : names) {
            Set<String> points = new TreeSet<>(Comparator.nullsFirst(Comparator.naturalOrder()));
            known.stream()
                    .filter(one -> one.lane().equals(name))
                    .map(LaneState::point)
                    .forEach(points::add);
            if (points.isEmpty()) {
                points.add(null);
            }
            for (String point : points) {
                lanes.add(lane(name, point, stored, Optional.ofNullable(decisions.get(name)), scope, known, attempts));
            }
        }
        lanes.sort(Comparator.comparing(lane -> !lane.picked()));
        return lanes;
    }

    /** What waits for its device to be known at the destination says how that stands now, and not how it stood when it came. */
    private LaneState stands(LaneState state, String device) {
        return device == null || !state.state().equals("waiting")
                ? state
                : introductions
                        .find(state.outlet(), device)
                        .flatMap(Introduction::waits)
                        .map(state::because)
                        .orElse(state);
    }

    private static LaneTrace lane(
            String name,
            String point,
            StoredMessage stored,
            Optional<Picker.Decision> decision,
            Optional<Scope> scope,
            List<LaneState> known,
            List<AttemptRow> attempts) {
        boolean picked = stored.lanes().contains(name);
        Optional<LaneState> state = known.stream()
                .filter(one -> one.lane().equals(name) && one.replay() == null && Objects.equals(one.point(), point))
                .max(Comparator.comparing(LaneState::at));
        return new LaneTrace(
                name,
                point,
                state.map(LaneState::outlet)
                        .or(() -> decision.map(one -> one.lane().outlet()))
                        .orElse(null),
                picked,
                decision.map(one -> one.lane().pick())
                        .map(pick -> pick.source())
                        .orElse(null),
                decision.map(one -> one.lane().pick())
                        .flatMap(pick -> scope.map(pick::values))
                        .orElse(null),
                picked ? null : decision.map(Picker.Decision::whyNot).orElse(null),
                state.map(LaneState::state).orElse(picked ? "waiting" : null),
                state.map(LaneState::at).orElse(null),
                state.map(LaneState::reason).orElse(null),
                state.map(LaneState::into).map(UUID::toString).orElse(null),
                attempts.stream()
                        .filter(attempt -> !attempt.trial()
                                && attempt.lane().equals(name)
                                && Objects.equals(attempt.point(), point))
                        .map(Traces::attempt)
                        .toList());
    }

    private static AttemptView attempt(AttemptRow row) {
        return new AttemptView(
                row.number(),
                row.at(),
                row.micros(),
                row.verdict(),
                row.reason(),
                row.code(),
                row.nextTry(),
                row.setupRevision(),
                row.outlet(),
                row.lane(),
                row.point(),
                row.replay() == null ? null : Replay.read(row.replay()).name(),
                JSON.readValue(row.request(), SentRequest.class),
                MessageView.text(row.requestBody()),
                row.answer() == null ? null : new String(row.answer(), java.nio.charset.StandardCharsets.UTF_8));
    }

    private static Came came(StoredMessage stored) {
        var arrival = stored.arrival();
        String text = MessageView.text(arrival.body());
        return new Came(
                arrival.transport().remote(),
                arrival.transport().address(),
                arrival.contentType(),
                arrival.transport().fields(),
                text,
                text == null ? Base64.getEncoder().encodeToString(arrival.body()) : null);
    }

    private static Map<String, Object> plainMap(Object map) {
        Map<String, Object> plain = new LinkedHashMap<>();
        if (Plain.of(map) instanceof Map<?, ?> fields) {
            fields.forEach((name, value) -> plain.put(name.toString(), value));
        }
        return plain;
    }
}

package org.holtra.service.incidents;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.history.LaneState;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.Records;
import org.holtra.service.intake.Rereader;
import org.holtra.service.journal.DeadLetters;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/**
 * Goes through the messages of an incident's span in the order they came, a page at a time: looks at them, or does what is
 * to be done. What is done depends on how things stand at that moment, so that a page gone through twice is done once.
 */
@Component
class Walk {

    static final int PAGE = 200;

    private static final Acts EVERYTHING_BUT_CORRECTIONS = new Acts(true, true, true, List.of());

    private final IncidentMapper mapper;
    private final Records records;
    private final DeadLetters dead;
    private final Rereader rereader;
    private final Setups setups;

    Walk(IncidentMapper mapper, Records records, DeadLetters dead, Rereader rereader, Setups setups) {
        this.mapper = mapper;
        this.records = records;
        this.dead = dead;
        this.rereader = rereader;
        this.setups = setups;
    }

    /**
     * What a page came to.
     *
     * @param last the message to go on after; null if that was the last page
     * @param outlets that have something to do
     */
    record Page(Findings findings, MessageId last, List<String> outlets) {}

    Setup setup() {
        return setups.current();
    }

    /** How many messages there are to go through. */
    long length(Incident incident) {
        return mapper.messages(incident.device(), inlets(incident), incident.since(), incident.until());
    }

    List<Findings.Missing> missing(Incident incident) {
        return mapper.missing(incident.device(), inlets(incident), incident.since(), incident.until());
    }

    /** The inlets that the lanes to its outlet look at; null if it is about a device. */
    private String[] inlets(Incident incident) {
        return incident.outlet() == null
                ? null
                : setups.current().lanesTo(incident.outlet()).stream()
                        .flatMap(lane -> lane.inlets().stream())
                        .distinct()
                        .toArray(String[]::new);
    }

    /**
     * @param last the message to go on after; null to begin
     * @param acts what is to be done; null to look only
     */
    Page page(Incident incident, MessageId last, Acts acts) {
        String[] inlets = inlets(incident);
        MessagePage found = records.after(
                last == null ? MessageId.before(incident.since()) : last,
                incident.until(),
                incident.device(),
                inlets == null ? null : List.of(inlets),
                PAGE);
        List<StoredMessage> messages =
                found.messages().stream().filter(StoredMessage::cameAsFirst).toList();
        List<String> outlets = new ArrayList<>();
        Findings findings = messages.isEmpty() ? Findings.NONE : new Stretch(incident, acts, messages).walk(outlets);
        return new Page(findings, found.last(), outlets);
    }

    /** Some messages that stand one after the other. */
    private final class Stretch {

        private final Setup setup = setups.current();
        private final Incident incident;
        private final Acts acts;
        private final boolean dry;
        private final List<StoredMessage> messages;
        private final UUID[] ids;
        private final Instant from;
        private final Instant to;
        private final Map<String, List<String>> examples = new TreeMap<>();
        /** Messages of which something goes now on lanes that keep order, with those lanes. */
        private final Map<StoredMessage, Set<String>> ordered = new HashMap<>();

        Stretch(Incident incident, Acts acts, List<StoredMessage> messages) {
            this.incident = incident;
            this.dry = acts == null;
            this.acts = dry ? EVERYTHING_BUT_CORRECTIONS : acts;
            this.messages = messages;
            this.ids = messages.stream().map(one -> one.id().value()).toArray(UUID[]::new);
            this.from = messages.getFirst().id().received();
            this.to = messages.getLast().id().received();
        }

        Findings walk(List<String> outlets) {
            List<IncidentMapper.Arrived> arrived = mapper.arrived(ids, from, to).stream()
                    .filter(one -> isAbout(one.outlet()))
                    .toList();
            List<IncidentMapper.Dead> letters = mapper.dead(ids, from, to).stream()
                    .filter(one -> isAbout(one.outlet()))
                    .toList();
            long waiting = dry ? waiting() : 0;
            List<Rereader.Again> again = again(arrived);
            again.forEach(one -> {
                one.taken().forEach(lane -> goes(one.before(), lane));
                outlets.addAll(outletsOf(one.taken()));
                outlets.addAll(outletsOf(one.corrected()));
            });
            if (acts.retry()) {
                letters.forEach(letter -> example("dead", new MessageId(letter.message())));
            }
            if (acts.retry() && !dry) {
                outlets.addAll(retry(letters));
            }
            return new Findings(
                    messages.size(),
                    dry ? arrived.size() : 0,
                    waiting,
                    again.stream()
                            .filter(one -> !one.before().readable() && acts.read())
                            .count(),
                    again.stream().filter(Rereader.Again::readNow).count(),
                    acts.retry()
                            ? letters.stream()
                                    .collect(Collectors.groupingBy(
                                            IncidentMapper.Dead::cause, TreeMap::new, Collectors.counting()))
                            : Map.of(),
                    unrouted(again),
                    revisions(arrived, again),
                    overtaken(),
                    examples,
                    List.of());
        }

        private boolean isAbout(String outlet) {
            return incident.outlet() == null || incident.outlet().equals(outlet);
        }

        private long waiting() {
            return records.states(messages.stream().map(StoredMessage::id).toList()).values().stream()
                    .flatMap(Collection::stream)
                    .filter(state -> state.state().equals("waiting") && isAbout(state.outlet()))
                    .count();
        }

        private List<Rereader.Again> again(List<IncidentMapper.Arrived> arrived) {
            Map<Object, Integer> revisions = arrived.stream()
                    .collect(Collectors.toMap(
                            one -> key(one.message(), one.lane(), one.point()), IncidentMapper.Arrived::revision));
            Rereader.Aim aim = new Rereader.Aim() {
                @Override
                public boolean reads() {
                    return acts.read();
                }

                @Override
                public boolean takes(StoredMessage before, Lane lane) {
                    return acts.take() && isUnrouted(before) && isAbout(lane.outlet());
                }

                @Override
                public boolean corrects(StoredMessage before, Lane lane, Rereader.Now now) {
                    return isAbout(lane.outlet())
                            && now.deliveries().stream()
                                    .map(LaneState::point)
                                    .map(point -> revisions.get(key(before.id().value(), lane.name(), point)))
                                    .filter(Objects::nonNull)
                                    .anyMatch(acts.wrong()::contains);
                }
            };
            String said = "read again when incident " + incident.number() + " was mended";
            List<Rereader.Again> all = rereader.again(messages, aim, said, dry);
            for (Rereader.Again one : all) {
                if (!one.before().readable() && acts.read()) {
                    example("unread", one.before().id());
                } else if (!one.taken().isEmpty()) {
                    example("unrouted", one.before().id());
                }
            }
            return all;
        }

        /** Whether no lane took it that the incident is about. */
        private boolean isUnrouted(StoredMessage message) {
            return message.lanes().stream()
                    .map(lane -> setup.lanes().get(lane))
                    .noneMatch(lane -> lane != null && isAbout(lane.outlet()));
        }

        private static Object key(UUID message, String lane, String point) {
            return List.of(message, lane, String.valueOf(point));
        }

        private List<String> retry(List<IncidentMapper.Dead> letters) {
            if (letters.isEmpty()) {
                return List.of();
            }
            Map<String, String> outlets =
                    setup.lanes().values().stream().collect(Collectors.toMap(Lane::name, Lane::outlet));
            return dead.retry(
                    letters.stream().map(IncidentMapper.Dead::delivery).toList(), null, outlets);
        }

        private Map<String, Long> unrouted(List<Rereader.Again> again) {
            return again.stream()
                    .filter(one -> one.before().readable())
                    .flatMap(one -> one.taken().stream())
                    .collect(Collectors.groupingBy(lane -> lane, TreeMap::new, Collectors.counting()));
        }

        /** What arrived under which revision; or, where something is done, what is corrected. */
        private Map<Integer, Long> revisions(List<IncidentMapper.Arrived> arrived, List<Rereader.Again> again) {
            Map<UUID, List<String>> corrected = again.stream()
                    .collect(Collectors.toMap(one -> one.before().id().value(), Rereader.Again::corrected));
            return arrived.stream()
                    .filter(one -> dry
                            || acts.wrong().contains(one.revision())
                                    && corrected
                                            .getOrDefault(one.message(), List.of())
                                            .contains(one.lane()))
                    .collect(Collectors.groupingBy(
                            IncidentMapper.Arrived::revision, TreeMap::new, Collectors.counting()));
        }

        private void goes(StoredMessage message, String lane) {
            if (setup.lanes().get(lane).ordered() && message.device() != null) {
                ordered.computeIfAbsent(message, one -> new HashSet<>()).add(lane);
            }
        }

        /** How many go behind later ones of their device that are delivered already. */
        private long overtaken() {
            if (ordered.isEmpty()) {
                return 0;
            }
            Map<String, Instant> newest = mapper
                    .newest(
                            ordered.keySet().stream()
                                    .map(StoredMessage::device)
                                    .distinct()
                                    .toArray(String[]::new),
                            from,
                            ordered.values().stream()
                                    .flatMap(Collection::stream)
                                    .distinct()
                                    .toArray(String[]::new))
                    .stream()
                    .collect(Collectors.toMap(IncidentMapper.Newest::device, IncidentMapper.Newest::received));
            return ordered.keySet().stream()
                    .filter(message -> newest.getOrDefault(message.device(), Instant.MIN)
                            .isAfter(message.id().received()))
                    .count();
        }

        private List<String> outletsOf(List<String> lanes) {
            return lanes.stream().map(lane -> setup.lanes().get(lane).outlet()).toList();
        }

        private void example(String what, MessageId id) {
            List<String> some = examples.computeIfAbsent(what, fresh -> new ArrayList<>());
            if (some.size() < Findings.EXAMPLES && !some.contains(id.toString())) {
                some.add(id.toString());
            }
        }
    }
}

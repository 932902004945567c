package org.holtra.service.jobs;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.MessageId;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.service.history.LaneState;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.Records;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Replay;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Delivers stored messages again, in the order they came, under a key that names the first delivery. */
@Component
public class ReplayWork implements Work {

    private static final int PAGE = 500;
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(ReplayWork.class);

    private final Setups setups;
    private final SetupCompiler compiler;
    private final Store store;
    private final Readings readings;

    /** Where messages are, and where they go. */
    @Component
    record Store(Records records, Journal journal, InstantSource clock) {}

    /**
     * What a replay would do.
     *
     * @param note what a person should know of it, or null
     */
    public record Preview(
            long messages, long deliveries, Instant first, Instant last, List<String> sample, String note) {}

    private static final String OF_MEMORY =
            "The lane has a memory: what it made is delivered again, and what went on as it is; what became part of"
                    + " something or was held back is not, and nothing of this counts in its memory.";

    /** What of a lane with memory never went anywhere by itself. */
    private static final Set<String> WENT_NOWHERE = Set.of("merged", "held back", "split", "remembered");

    ReplayWork(Setups setups, SetupCompiler compiler, Store store, Readings readings) {
        this.setups = setups;
        this.compiler = compiler;
        this.store = store;
        this.readings = readings.forHistory();
    }

    @Override
    public String what() {
        return "replay";
    }

    /** The condition of its terms; null if they have none. */
    public Condition condition(ReplayTerms terms) throws ExpressionProblem {
        return terms.where() == null || terms.where().isBlank()
                ? null
                : compiler.expressions(setups.current()).condition(terms.where());
    }

    /** Goes through the messages as a replay would, and delivers none. */
    public Preview preview(ReplayTerms terms) throws ExpressionProblem {
        Condition where = condition(terms);
        Setup setup = setups.current();
        Lane lane = setup.lanes().get(terms.lane());
        long messages = 0;
        long deliveries = 0;
        StoredMessage first = null;
        StoredMessage latest = null;
        List<String> sample = new ArrayList<>();
        MessageId last = MessageId.before(terms.from());
        while (last != null) {
            MessagePage page = page(terms, lane, last, PAGE);
            for (StoredMessage one : sent(page.messages(), lane)) {
                List<String> points = points(one, lane, where, terms, setup);
                if (!points.isEmpty()) {
                    messages++;
                    deliveries += points.size();
                    first = first == null ? one : first;
                    latest = one;
                    if (sample.size() < 10) {
                        sample.add(one.id().toString());
                    }
                }
            }
            last = page.last();
        }
        return new Preview(
                messages,
                deliveries,
                first == null ? null : first.id().received(),
                latest == null ? null : latest.id().received(),
                sample,
                lane.memory() == null ? null : OF_MEMORY);
    }

    private MessagePage page(ReplayTerms terms, Lane lane, MessageId last, int most) {
        return store.records.readAfter(lane, last, terms.to(), most);
    }

    /** Those that the lane sent, or would have sent, one by one. */
    private List<StoredMessage> sent(List<StoredMessage> page, Lane lane) {
        if (lane.memory() == null) {
            return page;
        }
        Map<UUID, List<LaneState>> states =
                store.records.states(page.stream().map(StoredMessage::id).toList());
        return page.stream()
                .filter(one -> states.getOrDefault(one.id().value(), List.of()).stream()
                        .noneMatch(state -> state.lane().equals(lane.name()) && WENT_NOWHERE.contains(state.state())))
                .toList();
    }

    @Override
    public Step step(Job job) {
        ReplayTerms terms = JSON.readValue(job.terms(), ReplayTerms.class);
        Setup setup = setups.current();
        Lane lane = setup.lanes().get(terms.lane());
        if (lane == null) {
            throw new IllegalStateException("lane `" + terms.lane() + "` is no longer there");
        }
        Condition where;
        try {
            where = condition(terms);
        } catch (ExpressionProblem e) {
            throw new IllegalStateException("its condition can no longer be compiled: " + e.getMessage(), e);
        }
        MessageId last = job.reached() == null ? MessageId.before(terms.from()) : MessageId.parse(job.reached());
        int most = terms.perSecond() == null ? PAGE : (int) Math.clamp(Math.round(terms.perSecond()), 1, PAGE);
        MessagePage page = page(terms, lane, last, most);
        List<Delivery.Owed> owed = new ArrayList<>();
        Replay replay = new Replay("r" + job.number(), terms.sameKey());
        for (StoredMessage one : sent(page.messages(), lane)) {
            for (String point : points(one, lane, where, terms, setup)) {
                owed.add(owing(job, replay, one, lane, terms, point.isEmpty() ? null : point));
            }
        }
        store.journal.owe(owed);
        Duration pause = terms.perSecond() == null || owed.isEmpty()
                ? Duration.ZERO
                : Duration.ofMillis((long) (1_000 * owed.size() / terms.perSecond()));
        return new Step(
                owed.size(),
                page.more() ? page.last().toString() : null,
                pause,
                owed.stream().map(Delivery.Owed::outlet).distinct().toList());
    }

    /** The same step makes the same deliveries, whoever does it. */
    private Delivery.Owed owing(Job job, Replay replay, StoredMessage one, Lane lane, ReplayTerms terms, String point) {
        String key = job.id() + " " + one.id() + " " + point;
        return new Delivery.Owed(
                UUID.nameUUIDFromBytes(key.getBytes(StandardCharsets.UTF_8)),
                one.id(),
                lane.name(),
                terms.outlet() == null ? lane.outlet() : terms.outlet(),
                one.device(),
                0,
                store.clock.instant(),
                null,
                null,
                null,
                new Delivery.Part(point, 0, replay, false),
                null);
    }

    /** What of a message is delivered: an empty text for it as a whole, or points; nothing if it is not meant. */
    private List<String> points(StoredMessage one, Lane lane, Condition where, ReplayTerms terms, Setup setup) {
        boolean taken = one.lanes().contains(lane.name());
        if (!taken && !terms.unrouted() || terms.device() != null && !Objects.equals(terms.device(), one.device())) {
            return List.of();
        }
        if (where == null && !lane.perPoint()) {
            return List.of("");
        }
        try {
            Scope scope = readings.scope(one, setup, null);
            if (where != null && !where.holds(scope)) {
                return List.of();
            }
            return lane.perPoint() ? Points.told(scope, Readings.model(readings.device(one), setup)) : List.of("");
        } catch (UnreadableContent e) {
            log.debug("Message {} cannot be read any more: {}", one.id(), e.getMessage());
            return List.of();
        }
    }
}

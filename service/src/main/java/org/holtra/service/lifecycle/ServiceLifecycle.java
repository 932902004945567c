package org.holtra.service.lifecycle;

import org.holtra.service.access.Accounts;
import org.holtra.service.balance.Acknowledgements;
import org.holtra.service.balance.TallyWriter;
import org.holtra.service.cluster.ClusterEvents;
import org.holtra.service.cluster.Node;
import org.holtra.service.connections.Diary;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.devices.FieldDescriptions;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.health.HealthMonitor;
import org.holtra.service.intake.DeferredReader;
import org.holtra.service.intake.Drain;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Learning;
import org.holtra.service.intake.Sources;
import org.holtra.service.introducing.Introducer;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.jobs.Jobs;
import org.holtra.service.journal.Days;
import org.holtra.service.journal.DeadLetters;
import org.holtra.service.journal.IdempotencyKeys;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.lookouts.Alarms;
import org.holtra.service.lookouts.Listening;
import org.holtra.service.memory.Forgetting;
import org.holtra.service.memory.TimelineRunner;
import org.holtra.service.metrics.Meters;
import org.holtra.service.refusals.Refusals;
import org.holtra.service.retention.Retention;
import org.holtra.service.setups.Setups;
import org.holtra.service.spool.Spool;
import org.holtra.service.tokens.AccessTokens;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.SmartLifecycle;
import org.springframework.core.NestedRuntimeException;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * The order in which things start and end. All is ready before the web server takes its first request, and the web
 * server is closed before anything ends.
 */
@Component
class ServiceLifecycle implements SmartLifecycle {

    /** What is read from the database at the start. */
    @Component
    record Memory(
            Accounts accounts,
            CredentialStore credentials,
            DeviceRegistry devices,
            Introductions introductions,
            AccessTokens tokens,
            Setups setups,
            Intake intake) {}

    /** What is done besides: what people want of many things, and the watch over Holtra itself. */
    @Component
    record Doings(
            Jobs jobs,
            DeadLetters dead,
            Introducer introducer,
            HealthMonitor wellbeing,
            Retention retention,
            Meters meters) {}

    /** What takes in when the database does not, and what lanes remember. */
    @Component
    record Spare(
            Spool spool,
            Drain drain,
            TimelineRunner timelines,
            Forgetting forgetting,
            Listening listening,
            Alarms alarms) {}

    /** What comes in, and what is told of how. */
    @Component
    record Incoming(Sources sources, Diary diary, Refusals refusals) {}

    /** What is learnt from messages. */
    @Component
    record Learnt(
            Learning learning,
            DeviceLives lives,
            FieldsSeen fields,
            FieldDescriptions descriptions,
            DeferredReader deferred) {}

    /** What writes to it. */
    @Component
    record Writers(
            Days days,
            Node node,
            Journal journal,
            TallyWriter tallies,
            Acknowledgements acknowledgements,
            LaneDebts debts,
            IdempotencyKeys keys,
            ClusterEvents events) {}

    private static final long PAUSE_MILLIS = 1_000;
    private static final Logger log = LoggerFactory.getLogger(ServiceLifecycle.class);

    private final Memory memory;
    private final Writers writers;
    private final Learnt learnt;
    private final Dispatcher dispatcher;
    private final PeriodicTasks periodicTasks;
    private final Spare spare;
    private final Doings doings;
    private final Incoming incoming;
    private volatile boolean running;

    ServiceLifecycle(
            Memory memory,
            Writers writers,
            Learnt learnt,
            Dispatcher dispatcher,
            PeriodicTasks periodicTasks,
            Spare spare,
            Doings doings,
            Incoming incoming) {
        this.memory = memory;
        this.writers = writers;
        this.learnt = learnt;
        this.dispatcher = dispatcher;
        this.periodicTasks = periodicTasks;
        this.spare = spare;
        this.doings = doings;
        this.incoming = incoming;
    }

    @Override
    public void start() {
        try {
            writers.days.prepare();
        } catch (DataAccessException | TransactionException e) {
            // The tables of the next days were made days ago; it is tried again, and told of, all the time.
            log.error("Tables for the coming days could not be made, and will be tried again", e);
        }
        patiently(writers.node::join);
        patiently(memory.accounts::ensureAdministrator);
        patiently(memory.credentials::load);
        patiently(memory.credentials::sealAnew);
        patiently(memory.devices::load);
        patiently(memory.introductions::load);
        patiently(memory.introductions::sealAnew);
        patiently(memory.tokens::sealAnew);
        patiently(dispatcher::load);
        patiently(memory.setups::load);
        patiently(memory.intake::load);
        patiently(learnt.descriptions::load);
        writers.events.listen();
        periodicTasks.promptly("dispatch", 50, dispatcher::tick);
        periodicTasks.promptly("lease", 2_000, dispatcher::renewLease);
        periodicTasks.promptly("database", 500, writers.journal::lookForDatabase);
        periodicTasks.promptly("drain", 100, spare.drain::run);
        periodicTasks.every(1_000, writers.tallies::write);
        periodicTasks.every(1_000, writers.acknowledgements::write);
        periodicTasks.every(1_000, writers.debts::addUp);
        periodicTasks.every(60_000, writers.keys::removeOld);
        periodicTasks.every(1_000, doings.wellbeing::report);
        periodicTasks.every(3_000, doings.wellbeing::look);
        periodicTasks.every(2_000, doings.meters::refresh);
        periodicTasks.every(500, learnt.lives::writeSome);
        periodicTasks.every(3_000, learnt.fields::write);
        periodicTasks.every(3_000, learnt.descriptions::write);
        periodicTasks.every(2_000, learnt.lives::hearOfOthers);
        periodicTasks.every(30_000, learnt.fields::hearOfOthers);
        periodicTasks.every(30_000, learnt.descriptions::hearOfOthers);
        periodicTasks.promptly("sources", 500, incoming.sources::tick);
        periodicTasks.every(500, incoming.diary::flush);
        periodicTasks.every(1_000, incoming.refusals::flush);
        periodicTasks.every(3_600_000, incoming.refusals::forgetOld);
        periodicTasks.promptly("deferred", 200, learnt.deferred::run);
        periodicTasks.every(2_000, learnt.learning::lookForSilence);
        periodicTasks.every(10_000, memory.intake::forget);
        periodicTasks.every(1_000, dispatcher::writeHealth);
        periodicTasks.every(2_000, doings.jobs::takeUp);
        periodicTasks.promptly("introductions", 250, doings.introducer::tick);
        periodicTasks.every(5_000, doings.dead::bury);
        periodicTasks.every(2_000, doings.dead::addUp);
        periodicTasks.every(30_000, dispatcher::freeStrays);
        periodicTasks.every(100, spare.timelines::run);
        periodicTasks.every(600_000, spare.forgetting::run);
        periodicTasks.every(5_000, spare.timelines::catchUp);
        periodicTasks.every(Listening.EACH.toMillis(), spare.listening::say);
        periodicTasks.every(3_600_000, spare.listening::forget);
        periodicTasks.every(3_600_000, spare.alarms::forget);
        periodicTasks.every(3_600_000, writers.days::prepare);
        periodicTasks.every(3_600_000, doings.retention::drop);
        running = true;
    }

    /** A database that goes away while the service starts is waited for. */
    private static void patiently(Runnable step) {
        boolean told = false;
        while (true) {
            try {
                step.run();
                return;
            } catch (NestedRuntimeException e) {
                if (!JournalUnavailable.mayPass(e)) {
                    throw e;
                }
                if (!told) {
                    log.warn(
                            "Waiting for the database: {}",
                            e.getMostSpecificCause().getMessage());
                    told = true;
                }
                pause();
            }
        }
    }

    private static void pause() {
        try {
            Thread.sleep(PAUSE_MILLIS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException("the start was interrupted", e);
        }
    }

    @Override
    public void stop() {
        running = false;
        incoming.sources.close();
        learnt.deferred.close();
        doings.jobs.close();
        doings.introducer.close();
        dispatcher.close();
        writers.events.close();
        periodicTasks.close();
        writers.journal.close();
        writers.tallies.write();
        writers.acknowledgements.write();
        learnt.lives.writeAll();
        learnt.fields.write();
        learnt.descriptions.write();
        dispatcher.writeHealth();
        writers.node.leave();
        incoming.diary.flush();
        incoming.refusals.flush();
    }

    @Override
    public boolean isRunning() {
        return running;
    }

    /** Before the web server, whose phase is near the highest. */
    @Override
    public int getPhase() {
        return 0;
    }
}

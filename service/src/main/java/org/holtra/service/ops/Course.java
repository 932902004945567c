package org.holtra.service.ops;

import org.holtra.service.access.Accounts;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.intake.Drain;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Learning;
import org.holtra.service.journal.Acknowledgements;
import org.holtra.service.journal.Backlog;
import org.holtra.service.journal.Bulletin;
import org.holtra.service.journal.Days;
import org.holtra.service.journal.DeadLetters;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.Node;
import org.holtra.service.journal.Retention;
import org.holtra.service.journal.TallyWriter;
import org.holtra.service.lookouts.Listening;
import org.holtra.service.memory.Forgetting;
import org.holtra.service.memory.Memories;
import org.holtra.service.setups.Setups;
import org.holtra.service.spool.Spool;
import org.holtra.service.undertakings.Undertakings;
import org.holtra.service.wellbeing.Wellbeing;
import org.springframework.context.SmartLifecycle;
import org.springframework.stereotype.Component;

/**
 * The order in which things start and end. All is ready before the web server takes its first request, and the web
 * server is closed before anything ends.
 */
@Component
class Course implements SmartLifecycle {

    /** What is read from the database at the start. */
    @Component
    record Memory(
            Accounts accounts, CredentialStore credentials, DeviceRegistry devices, Setups setups, Intake intake) {}

    /** What is done besides: what people want of many things, and the watch over Holtra itself. */
    @Component
    record Doings(Undertakings undertakings, DeadLetters dead, Wellbeing wellbeing, Retention retention) {}

    /** What takes in when the database does not, and what lanes remember. */
    @Component
    record Spare(Spool spool, Drain drain, Memories memories, Forgetting forgetting, Listening listening) {}

    /** What is learnt from messages. */
    @Component
    record Learnt(Learning learning, DeviceLives lives, FieldsSeen fields) {}

    /** What writes to it. */
    @Component
    record Writers(
            Days days,
            Node node,
            Journal journal,
            TallyWriter tallies,
            Acknowledgements acknowledgements,
            Backlog backlog,
            Bulletin bulletin) {}

    private final Memory memory;
    private final Writers writers;
    private final Learnt learnt;
    private final Dispatcher dispatcher;
    private final Rounds rounds;
    private final Spare spare;
    private final Doings doings;
    private volatile boolean running;

    Course(
            Memory memory,
            Writers writers,
            Learnt learnt,
            Dispatcher dispatcher,
            Rounds rounds,
            Spare spare,
            Doings doings) {
        this.memory = memory;
        this.writers = writers;
        this.learnt = learnt;
        this.dispatcher = dispatcher;
        this.rounds = rounds;
        this.spare = spare;
        this.doings = doings;
    }

    @Override
    public void start() {
        writers.days.prepare();
        writers.node.join();
        memory.accounts.ensureAdministrator();
        memory.credentials.load();
        memory.devices.load();
        dispatcher.load();
        memory.setups.load();
        memory.intake.load();
        writers.bulletin.listen();
        rounds.every(50, dispatcher::tick);
        rounds.every(1_000, writers.tallies::write);
        rounds.every(1_000, writers.acknowledgements::write);
        rounds.every(1_000, writers.backlog::addUp);
        rounds.every(1_000, doings.wellbeing::report);
        rounds.every(3_000, doings.wellbeing::look);
        rounds.every(500, learnt.lives::writeSome);
        rounds.every(3_000, learnt.fields::write);
        rounds.every(2_000, learnt.learning::lookForSilence);
        rounds.every(10_000, memory.intake::forget);
        rounds.every(1_000, dispatcher::writeHealth);
        rounds.every(2_000, doings.undertakings::takeUp);
        rounds.every(5_000, doings.dead::bury);
        rounds.every(2_000, dispatcher::renewLease);
        rounds.every(100, spare.drain::run);
        rounds.every(100, spare.memories::run);
        rounds.every(600_000, spare.forgetting::run);
        rounds.every(5_000, spare.memories::tellUntold);
        rounds.every(Listening.EACH.toMillis(), spare.listening::say);
        rounds.every(3_600_000, spare.listening::forget);
        rounds.every(500, writers.journal::lookForDatabase);
        rounds.every(3_600_000, writers.days::prepare);
        rounds.every(3_600_000, doings.retention::drop);
        running = true;
    }

    @Override
    public void stop() {
        running = false;
        doings.undertakings.close();
        dispatcher.close();
        writers.bulletin.close();
        rounds.close();
        writers.journal.close();
        writers.tallies.write();
        writers.acknowledgements.write();
        learnt.lives.writeAll();
        learnt.fields.write();
        dispatcher.writeHealth();
        writers.node.leave();
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

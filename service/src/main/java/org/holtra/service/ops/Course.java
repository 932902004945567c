package org.holtra.service.ops;

import org.holtra.service.access.Accounts;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Learning;
import org.holtra.service.journal.Days;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.Node;
import org.holtra.service.journal.TallyWriter;
import org.holtra.service.setups.Setups;
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

    /** What is learnt from messages. */
    @Component
    record Learnt(Learning learning, DeviceLives lives, FieldsSeen fields) {}

    /** What writes to it. */
    @Component
    record Writers(Days days, Node node, Journal journal, TallyWriter tallies) {}

    private final Memory memory;
    private final Writers writers;
    private final Learnt learnt;
    private final Dispatcher dispatcher;
    private final Rounds rounds;
    private volatile boolean running;

    Course(Memory memory, Writers writers, Learnt learnt, Dispatcher dispatcher, Rounds rounds) {
        this.memory = memory;
        this.writers = writers;
        this.learnt = learnt;
        this.dispatcher = dispatcher;
        this.rounds = rounds;
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
        rounds.every(50, dispatcher::tick);
        rounds.every(1_000, writers.tallies::write);
        rounds.every(1_000, learnt.lives::write);
        rounds.every(3_000, learnt.fields::write);
        rounds.every(2_000, learnt.learning::lookForSilence);
        rounds.every(10_000, memory.intake::forget);
        rounds.every(1_000, dispatcher::writeHealth);
        rounds.every(2_000, () -> writers.node.renew().forEach(dispatcher::wake));
        rounds.every(3_600_000, writers.days::prepare);
        running = true;
    }

    @Override
    public void stop() {
        running = false;
        dispatcher.close();
        rounds.close();
        writers.journal.close();
        writers.tallies.write();
        learnt.lives.write();
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

package org.holtra.service.introducing;

import java.time.InstantSource;
import org.holtra.service.connections.Diary;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.introductions.Introducers;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.setups.Setups;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;

/** What the introducers of all outlets work with. */
@Component
record IntroducerContext(Work work, Introducers introducers, Telling telling, InstantSource clock) {

    /** How steps are made. */
    @Component
    record Work(Introductions introductions, IntroductionRun run, Dispatcher dispatcher, Setups setups) {}

    /** Who is told. */
    @Component
    record Telling(Diary diary, ApplicationEventPublisher events) {}
}

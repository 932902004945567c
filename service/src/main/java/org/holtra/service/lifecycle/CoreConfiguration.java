package org.holtra.service.lifecycle;

import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Collection;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.message.MessageIds;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.schema.Kind;
import org.holtra.scripts.ScriptLimits;
import org.holtra.scripts.Scripts;
import org.holtra.service.cluster.MachineClock;
import org.holtra.service.cluster.SharedClock;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Primary;

/** What the core computes with, given its clock and its randomness. */
@Configuration
class CoreConfiguration {

    @Bean
    @ConditionalOnMissingBean
    MachineClock machineClock() {
        return Instant::now;
    }

    @Bean
    SharedClock clock(MachineClock machine) {
        return new SharedClock(machine);
    }

    @Bean
    MessageIds messageIds(InstantSource clock) {
        return new MessageIds(clock, new SecureRandom());
    }

    /** Of people who try codecs: what they try may take as long as it likes, and no message waits for it. */
    @Bean
    Scripts scriptsForTries(InstantSource clock, HoltraSettings settings) {
        return new Scripts(settings.scriptLimits(ScriptLimits.Use.TRIES), clock);
    }

    /** Of rehearsals, jobs and plots, which read many stored messages again. */
    @Bean
    Scripts scriptsForHistory(InstantSource clock, HoltraSettings settings) {
        return new Scripts(settings.scriptLimits(ScriptLimits.Use.HISTORY), clock);
    }

    @Bean
    @Primary
    Scripts scripts(InstantSource clock, HoltraSettings settings) {
        return new Scripts(settings.scriptLimits(), clock);
    }

    @Bean
    SetupCompiler setupCompiler(Collection<Kind> kinds) {
        return new SetupCompiler(kinds, new ExpressionCompiler());
    }
}

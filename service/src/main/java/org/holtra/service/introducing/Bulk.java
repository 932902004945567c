package org.holtra.service.introducing;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Predicate;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Jobs;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Introduces, compares and removes many devices at once, as jobs. */
@Component
public class Bulk {

    private static final int PAGE = 1_000;

    private final ChosenDevices chosen;
    private final Introductions introductions;
    private final Jobs jobs;
    private final Setups setups;

    Bulk(ChosenDevices chosen, Introductions introductions, Jobs jobs, Setups setups) {
        this.setups = setups;
        this.chosen = chosen;
        this.introductions = introductions;
        this.jobs = jobs;
    }

    /** @throws IllegalArgumentException if the choice cannot be understood, with a sentence for people */
    public Job introduce(String outlet, DeviceChoice choice, String by) {
        return begin(IntroductionWork.INTRODUCE, outlet, chosen.of(choice), by);
    }

    public Job compare(String outlet, String by) {
        return begin(IntroductionWork.COMPARE, outlet, made(outlet, key -> true), by);
    }

    /**
     * Removes what was made there. Where no open lane leads there, nothing is made there afterwards by what was asked before.
     *
     * @throws IllegalArgumentException if the choice cannot be understood, with a sentence for people
     */
    public Job remove(String outlet, DeviceChoice choice, String by) {
        Predicate<String> fits = fits(choice);
        boolean wanted = setups.current().lanes().values().stream()
                .anyMatch(lane -> lane.outlet().equals(outlet) && !lane.closed());
        if (!wanted) {
            introductions.withdraw(outlet, fits);
        }
        return begin(IntroductionWork.REMOVE, outlet, made(outlet, fits), by);
    }

    /**
     * How many devices a removal would be about.
     *
     * @throws IllegalArgumentException if the choice cannot be understood, with a sentence for people
     */
    public int count(String outlet, DeviceChoice choice) {
        return made(outlet, fits(choice)).size();
    }

    private Predicate<String> fits(DeviceChoice choice) {
        return choice.equals(DeviceChoice.ALL)
                ? key -> true
                : choice.keys() != null ? choice.keys()::contains : chosen.of(choice)::contains;
    }

    /** The devices that were made there, though they may be known here no longer. */
    private List<String> made(String outlet, Predicate<String> fits) {
        List<String> keys = new ArrayList<>();
        String after = "";
        while (true) {
            List<String> page = introductions.devicesMade(outlet, after, PAGE);
            page.stream().filter(fits).forEach(keys::add);
            if (page.size() < PAGE) {
                return keys;
            }
            after = page.getLast();
        }
    }

    private Job begin(String what, String outlet, List<String> keys, String by) {
        return jobs.begin(what, new IntroductionTerms(outlet, keys), by, (long) keys.size(), null);
    }
}

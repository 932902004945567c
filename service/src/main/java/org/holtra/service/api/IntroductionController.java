package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.security.Principal;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.core.setup.Outlet;
import org.holtra.service.introducing.Bulk;
import org.holtra.service.introducing.DeviceChoice;
import org.holtra.service.introducing.DryRun;
import org.holtra.service.introducing.Introducer;
import org.holtra.service.introducing.RegistryImport;
import org.holtra.service.introducing.StepTrial;
import org.holtra.service.introductions.Introducers;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.IntroductionState;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.introductions.MadeThere;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** How devices stand at outlets whose destinations must know them, and what was made there. */
@RestController
@RequestMapping("/api/v1/outlets/{name}")
class IntroductionController {

    /**
     * A device at an outlet's destination.
     *
     * @param state {@code waiting}, {@code introducing}, {@code known}, {@code refused} or {@code removing}
     * @param step that comes next, or that was refused; null if none is left
     * @param called what it is called there; null before that is known
     * @param id it has there; null before that is known
     * @param existed whether somebody else made it there
     * @param ownCredential whether it has a credential of its own
     * @param since it is in this state
     * @param next when it is tried again; null if that is up to a person
     * @param why it is refused, in a word; null if it is not
     * @param reason in a sentence; null if nothing is in the way
     * @param revision of the setup whose recipe was used
     * @param by who wants it there
     */
    record IntroductionView(
            String device,
            String state,
            String step,
            String called,
            String id,
            boolean existed,
            boolean ownCredential,
            Instant since,
            Instant next,
            String why,
            String reason,
            int revision,
            String by) {

        /** @param one null for none */
        static IntroductionView of(Introduction one) {
            if (one == null) {
                return null;
            }
            Introduction.Progress progress = one.progress();
            return new IntroductionView(
                    one.device(),
                    one.state().word(),
                    progress.step() == null ? null : progress.step().word(),
                    one.there() == null ? null : one.there().name(),
                    one.there() == null ? null : one.there().id(),
                    progress.existed(),
                    one.credential() != null,
                    progress.since(),
                    progress.next().isBefore(Introduction.Progress.NEVER) ? progress.next() : null,
                    one.refusal() == null || one.refusal().why() == null
                            ? null
                            : one.refusal().why().word(),
                    one.refusal() == null ? null : one.refusal().reason(),
                    progress.revision(),
                    one.asked().by());
        }
    }

    /**
     * @param recipe whether the outlet has a recipe
     * @param counts of devices by state; of those that are refused also by why
     * @param standsStill what is in the way of all, as this node sees it; null if nothing is
     * @param paused by whom; null if nobody paused it
     * @param made how many devices were made there, and are there still
     * @param next to ask for more, as {@code after}; null if there are none
     */
    record IntroductionPage(
            boolean recipe,
            Map<String, Long> counts,
            String standsStill,
            Introducers.Paused paused,
            long made,
            List<IntroductionView> introductions,
            String next) {}

    /**
     * Which devices; all if none of these is given.
     *
     * @param where condition over {@code device}
     * @param keys of devices
     * @param pattern of keys, in which {@code *} stands for any text
     */
    record ChoiceRequest(String where, List<String> keys, String pattern) {

        DeviceChoice choice() {
            return new DeviceChoice(where, keys, pattern);
        }
    }

    /** @param fields of the outlet as a setup file has them; null for the active one */
    record DryRunRequest(String where, List<String> keys, String pattern, Map<String, Object> fields) {

        DeviceChoice choice() {
            return new DeviceChoice(where, keys, pattern);
        }
    }

    /** @param fields of the outlet as a setup file has them; null for the active one */
    record PlanRequest(String device, Map<String, Object> fields) {}

    record DeviceRequest(String device) {}

    record PlanView(String device, List<StepTrial.Planned> steps, IntroductionView now) {}

    /** @param now null if nothing of it is there any longer */
    record MadeView(
            String step,
            String request,
            String body,
            String outcome,
            String reason,
            String answer,
            IntroductionView now) {}

    /** @param next to ask for more, as {@code after}; null if there are none */
    record MadePage(List<MadeThere> made, String next) {}

    record Going(String state) {}

    record CountView(int devices) {}

    private final OutletDrafts drafts;
    private final Introductions introductions;
    private final Introducers introducers;
    private final Introducer introducer;
    private final Trying trying;

    /** What is done before and beside. */
    @Component
    record Trying(DryRun dryRun, StepTrial trial, Bulk bulk, RegistryImport registry) {}

    IntroductionController(
            OutletDrafts drafts,
            Introductions introductions,
            Introducers introducers,
            Introducer introducer,
            Trying trying) {
        this.drafts = drafts;
        this.introductions = introductions;
        this.introducers = introducers;
        this.introducer = introducer;
        this.trying = trying;
    }

    /** How devices stand at an outlet's destination, by key. */
    @GetMapping("/introductions")
    IntroductionPage list(
            @PathVariable String name,
            @Parameter(description = "waiting, introducing, known, refused or removing") @RequestParam(required = false)
                    String state,
            @Parameter(description = "the `next` of the page before") @RequestParam(defaultValue = "") String after,
            @RequestParam(defaultValue = "100") int limit) {
        List<Introduction> found = introductions.list(name, after, state(state), Paging.checked(limit));
        return new IntroductionPage(
                drafts.hasRecipe(name),
                introductions.counts(name, null),
                introducer.standsStill(name),
                introducers.paused(name).orElse(null),
                introductions.countMade(name),
                found.stream().map(IntroductionView::of).toList(),
                Paging.next(found, limit, Introduction::device));
    }

    private static IntroductionState state(String word) {
        if (word == null) {
            return null;
        }
        return IntroductionState.find(word)
                .orElseThrow(() -> Problem.badRequest(
                        "state", "`" + word + "` is none of waiting, introducing, known, refused and removing."));
    }

    /** Looks what introducing devices would come to. Nothing is changed at the destination. */
    @PostMapping("/introductions/dry-run")
    DryRun.Report dryRun(@PathVariable String name, @RequestBody DryRunRequest wanted) {
        Outlet outlet = drafts.withRecipe(name, wanted.fields);
        try {
            return trying.dryRun.of(outlet, wanted.choice());
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("where", e.getMessage());
        }
    }

    /** Shows the exact request of each step for one device. Nothing is sent. */
    @PostMapping("/introductions/plan")
    PlanView plan(@PathVariable String name, @RequestBody PlanRequest wanted) {
        StepTrial.Plan plan = trying.trial.plan(drafts.withRecipe(name, wanted.fields), device(wanted.device));
        return new PlanView(plan.device(), plan.steps(), IntroductionView.of(plan.now()));
    }

    /** Makes the next step for one device, by the active recipe, and stops. */
    @PostMapping("/introductions/step")
    MadeView step(@PathVariable String name, @RequestBody DeviceRequest wanted, Principal principal) {
        try {
            StepTrial.Made made =
                    trying.trial.next(drafts.withRecipe(name, null), device(wanted.device), principal.getName());
            return new MadeView(
                    made.step(),
                    made.request(),
                    made.body(),
                    made.outcome(),
                    made.reason(),
                    made.answer(),
                    IntroductionView.of(made.now()));
        } catch (IllegalArgumentException e) {
            throw new Problem(HttpStatus.CONFLICT, "No step was made", e.getMessage(), Map.of());
        }
    }

    private static String device(String key) {
        if (key == null || key.isBlank()) {
            throw Problem.badRequest("device", "Say which device.");
        }
        return key;
    }

    /** Introduces devices, in the background; those that were refused are tried again. */
    @PostMapping("/introductions")
    JobView introduce(@PathVariable String name, @RequestBody ChoiceRequest wanted, Principal principal) {
        drafts.withRecipe(name, null);
        try {
            return JobView.of(trying.bulk.introduce(name, wanted.choice(), principal.getName()));
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("where", e.getMessage());
        }
    }

    /**
     * What an import wants.
     *
     * @param model of devices that are entered; null for none
     * @param dry whether nothing is entered
     */
    record ImportRequest(String model, boolean dry) {}

    /** Enters the devices that the destination has in its registry. What is known of them here stays. */
    @PostMapping("/introductions/import")
    RegistryImport.Report importDevices(
            @PathVariable String name, @RequestBody ImportRequest wanted, Principal principal) {
        Outlet outlet = drafts.withRecipe(name, null);
        if (outlet.recipe().listing() == null) {
            throw Problem.badRequest(
                    "name", "The recipe of outlet " + name + " has no `list`, so nothing can be imported.");
        }
        drafts.checkModel(wanted.model);
        try {
            return trying.registry.run(outlet, wanted.model, wanted.dry, principal.getName());
        } catch (IllegalArgumentException e) {
            throw new Problem(HttpStatus.CONFLICT, "Nothing was imported", e.getMessage(), Map.of());
        }
    }

    /** Introduces nothing more at an outlet until somebody has it go on. */
    @PostMapping("/introductions/pause")
    Going pause(@PathVariable String name, Principal principal) {
        drafts.withRecipe(name, null);
        introducers.pause(name, principal.getName());
        return new Going("paused");
    }

    /** Goes on after a pause, and tries again what was refused. */
    @PostMapping("/introductions/resume")
    Going resume(@PathVariable String name) {
        drafts.withRecipe(name, null);
        introducers.goOn(name);
        introducer.mended(name);
        return new Going("going on");
    }

    /** What was made at an outlet's destination and is there still, the first made first. */
    @GetMapping("/made")
    MadePage made(
            @PathVariable String name,
            @Parameter(description = "whether only what a comparison found otherwise than we made it")
                    @RequestParam(defaultValue = "false")
                    boolean differing,
            @Parameter(description = "the `next` of the page before") @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "100") int limit) {
        List<MadeThere> found = introductions.made(name, Paging.number(after), differing, Paging.checked(limit));
        return new MadePage(found, Paging.next(found, limit, last -> Long.toString(last.number())));
    }

    /** Compares what was made with what is there now, in the background. */
    @PostMapping("/made/compare")
    JobView compare(@PathVariable String name, Principal principal) {
        drafts.withRecipe(name, null);
        return JobView.of(trying.bulk.compare(name, principal.getName()));
    }

    /** Counts the devices that a removal would be about. */
    @PostMapping("/made/count")
    CountView count(@PathVariable String name, @RequestBody ChoiceRequest wanted) {
        try {
            return new CountView(trying.bulk.count(name, wanted.choice()));
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("where", e.getMessage());
        }
    }

    /** Removes what was made there, in the background: of chosen devices or of all. */
    @PostMapping("/made/remove")
    JobView remove(@PathVariable String name, @RequestBody ChoiceRequest wanted, Principal principal) {
        drafts.withRecipe(name, null);
        try {
            return JobView.of(trying.bulk.remove(name, wanted.choice(), principal.getName()));
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("where", e.getMessage());
        }
    }
}

package org.holtra.service.api;

import java.security.Principal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.setup.advice.SetupAdvice;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.document.SetupEdit;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.setups.Draft;
import org.holtra.service.setups.SetupParts;
import org.holtra.service.setups.SetupRefused;
import org.holtra.service.setups.Setups;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** The parts of the setup one by one: lanes, inlets, outlets, lookups, models. */
@RestController
@RequestMapping("/api/v1/setup")
class PartController {

    private static final JsonMapper JSON = JsonMapper.shared();

    /**
     * @param content its fields as in a setup file; null if there is no such part
     * @param mark to be given back with a change, so that nobody overwrites what another did meanwhile
     * @param drafts of people who are changing it; {@code mine} says which is the asker's own
     * @param dependents what could not be without it
     * @param waiting deliveries that a lane owes, or that wait for an outlet
     * @param dead letters likewise
     */
    record PartView(
            String thing,
            String name,
            Map<String, Object> content,
            String text,
            String mark,
            int revision,
            List<DraftView> drafts,
            List<SetupParts.Dependent> dependents,
            long waiting,
            long dead) {}

    /** @param discarded whether there was one */
    record Discarded(boolean discarded) {}

    /** @param revision of the setup without the part */
    record Removed(int revision) {}

    /** @param overtaken whether the part was changed since the draft was begun */
    record DraftView(
            String thing,
            String name,
            String by,
            boolean mine,
            boolean overtaken,
            Map<String, Object> content,
            String basedOn,
            java.time.Instant changed) {}

    /** @param basedOn the mark of the part it was made from; empty for a new part; null to not care */
    record Wanted(Map<String, Object> content, String basedOn, String note) {}

    record Checked(List<SetupProblem> problems, List<SetupProblem> warnings) {}

    private final SetupParts parts;
    private final Setups setups;
    private final FieldsSeen fields;
    private final LaneDebts debts;

    PartController(SetupParts parts, Setups setups, FieldsSeen fields, LaneDebts debts) {
        this.parts = parts;
        this.setups = setups;
        this.fields = fields;
        this.debts = debts;
    }

    /** A part of the setup: its content, its drafts, and what depends on it. */
    @GetMapping("/parts/{thing}/{name}")
    PartView part(@PathVariable String thing, @PathVariable String name, Principal principal) {
        SetupParts.Part part = parts.part(known(thing), name);
        return new PartView(
                thing,
                name,
                part.content(),
                part.text(),
                part.mark(),
                setups.current().revision(),
                parts.drafts(thing, name).stream()
                        .map(draft -> view(draft, part.mark(), principal))
                        .toList(),
                parts.dependents(thing, name),
                debts.debtsNow().stream()
                        .filter(debt -> name.equals(thing.equals("outlets") ? debt.outlet() : debt.lane()))
                        .mapToLong(debt -> debt.waiting())
                        .sum(),
                debts.deadGroups().stream()
                        .filter(group -> name.equals(thing.equals("outlets") ? group.outlet() : group.lane()))
                        .mapToLong(DeadGroup::count)
                        .sum());
    }

    /** The content of a part as a setup file has it, which need not be active. */
    @PostMapping(value = "/part-of", consumes = "application/yaml")
    Map<String, Object> partOf(@RequestParam String thing, @RequestParam String name, @RequestBody String yaml) {
        SetupCompiler.Result checked = setups.check(yaml);
        try {
            return new SetupEdit(yaml)
                    .content(known(thing), name)
                    .orElseThrow(() -> Problem.notFound(singular(thing) + " in this file", name));
        } catch (YamlEngineException e) {
            throw new Problem(
                    HttpStatus.UNPROCESSABLE_CONTENT,
                    "Not a setup file",
                    "The file cannot be read as YAML.",
                    Map.of("problems", checked.problems()));
        }
    }

    /** All drafts there are, without their content. */
    @GetMapping("/drafts")
    List<DraftView> drafts(Principal principal) {
        return parts.drafts().stream()
                .map(draft ->
                        view(draft, parts.part(draft.thing(), draft.name()).mark(), principal))
                .toList();
    }

    private static DraftView view(Draft draft, String mark, Principal principal) {
        return new DraftView(
                draft.thing(),
                draft.name(),
                draft.byWhom(),
                draft.byWhom().equals(principal.getName()),
                !draft.basedOn().equals(mark),
                draft.content().isEmpty() ? null : content(draft.content()),
                draft.basedOn(),
                draft.changed());
    }

    /** Checks a part within the active setup, and changes nothing. */
    @PostMapping("/parts/{thing}/{name}/check")
    Checked check(@PathVariable String thing, @PathVariable String name, @RequestBody Wanted wanted) {
        String yaml = parts.with(known(thing), named(name), wanted(wanted));
        SetupCompiler.Result result = setups.check(yaml);
        return new Checked(
                result.problems(),
                result.setup().map(setup -> SetupAdvice.of(yaml, setup, fields)).orElse(List.of()).stream()
                        .filter(problem -> problem.where().startsWith(thing + "." + name + "."))
                        .toList());
    }

    /** Applies a part; the asker's draft of it is done with. */
    @PutMapping("/parts/{thing}/{name}")
    PartView adopt(
            @PathVariable String thing,
            @PathVariable String name,
            @RequestBody Wanted wanted,
            @RequestParam(defaultValue = "refuse") String waiting,
            @RequestParam(required = false) String confirm,
            Principal principal) {
        confirmed(name, waiting, confirm);
        String note = wanted.note == null || wanted.note.isBlank() ? singular(thing) + " " + name : wanted.note;
        try {
            parts.adopt(known(thing), named(name), wanted(wanted), change(principal, note, wanted.basedOn, waiting));
        } catch (SetupRefused e) {
            throw Adoption.refused(e);
        }
        return part(thing, name, principal);
    }

    /** Takes a part away. Refused as long as another could not be without it. */
    @DeleteMapping("/parts/{thing}/{name}")
    Removed remove(
            @PathVariable String thing,
            @PathVariable String name,
            @RequestParam(defaultValue = "refuse") String waiting,
            @RequestParam(required = false) String confirm,
            @RequestParam(required = false) String basedOn,
            Principal principal) {
        there(thing, name);
        List<SetupParts.Dependent> needed = parts.dependents(thing, name);
        if (!needed.isEmpty()) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "Still needed",
                    "`" + name + "` is needed by "
                            + String.join(
                                    ", ",
                                    needed.stream()
                                            .map(one -> singular(one.thing()) + " " + one.name())
                                            .toList())
                            + ". Change or remove " + (needed.size() == 1 ? "it" : "them") + " first.",
                    Map.of("why", "needed", "dependents", needed));
        }
        confirmed(name, waiting, confirm);
        try {
            int revision = parts.remove(
                            thing, name, change(principal, singular(thing) + " " + name + " removed", basedOn, waiting))
                    .revision();
            return new Removed(revision);
        } catch (SetupRefused e) {
            throw Adoption.refused(e);
        }
    }

    /** Opens a lane, inlet or outlet; one that is open stays so. */
    @PostMapping("/parts/{thing}/{name}/open")
    PartView open(@PathVariable String thing, @PathVariable String name, Principal principal) {
        return switched(thing, name, "open", principal);
    }

    /** Closes a lane, inlet or outlet. */
    @PostMapping("/parts/{thing}/{name}/close")
    PartView close(@PathVariable String thing, @PathVariable String name, Principal principal) {
        return switched(thing, name, "closed", principal);
    }

    private PartView switched(String thing, String name, String state, Principal principal) {
        Map<String, Object> content = new LinkedHashMap<>(there(thing, name).content());
        if (!List.of("inlets", "lanes", "outlets").contains(thing)) {
            throw Problem.badRequest("thing", "Only lanes, inlets and outlets can be open and closed.");
        }
        if (!state.equals(content.getOrDefault("state", "open"))) {
            if (state.equals("open")) {
                content.remove("state");
            } else {
                content.put("state", state);
            }
            String note = singular(thing) + " " + name + (state.equals("open") ? " opened" : " closed");
            try {
                parts.adopt(thing, name, content, change(principal, note, null, "refuse"));
            } catch (SetupRefused e) {
                throw Adoption.refused(e);
            }
        }
        return part(thing, name, principal);
    }

    /** Keeps what a person is changing, without touching what is active. */
    @PutMapping("/parts/{thing}/{name}/draft")
    DraftView draft(
            @PathVariable String thing, @PathVariable String name, @RequestBody Wanted wanted, Principal principal) {
        String basedOn = wanted.basedOn == null ? parts.part(known(thing), name).mark() : wanted.basedOn;
        Draft draft = parts.save(
                known(thing), named(name), principal.getName(), JSON.writeValueAsString(wanted(wanted)), basedOn);
        return view(draft, parts.part(thing, name).mark(), principal);
    }

    /** Discards the caller's own draft of a part. */
    @DeleteMapping("/parts/{thing}/{name}/draft")
    Discarded discard(@PathVariable String thing, @PathVariable String name, Principal principal) {
        return new Discarded(parts.discard(known(thing), name, principal.getName()));
    }

    private SetupParts.Part there(String thing, String name) {
        SetupParts.Part part = parts.part(known(thing), name);
        if (part.content() == null) {
            throw Problem.notFound(singular(thing), name);
        }
        return part;
    }

    private static SetupParts.Change change(Principal principal, String note, String basedOn, String waiting) {
        return new SetupParts.Change(principal.getName(), note, basedOn, Adoption.waiting(waiting));
    }

    /** Data are dropped only for somebody who typed the name. */
    private static void confirmed(String name, String waiting, String confirm) {
        if (Adoption.waiting(waiting) == Setups.Waiting.DROP && !name.equals(confirm)) {
            throw Problem.badRequest(
                    "confirm", "Deliveries would be dropped. Give the name `" + name + "` to confirm that.");
        }
    }

    private static Map<String, Object> wanted(Wanted wanted) {
        if (wanted.content == null) {
            throw Problem.badRequest("content", "Say what the part is to be.");
        }
        return wanted.content;
    }

    private static String known(String thing) {
        if (!SetupParts.THINGS.contains(thing)) {
            throw Problem.notFound("type of part", thing);
        }
        return thing;
    }

    private static String named(String name) {
        if (!name.matches("[a-z][a-z0-9-]{0,62}")) {
            throw Problem.badRequest(
                    "name", "A name has lower-case letters, digits and dashes, and begins with a letter.");
        }
        return name;
    }

    private static String singular(String thing) {
        return thing.substring(0, thing.length() - 1);
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> content(String json) {
        return JSON.readValue(json, Map.class);
    }
}

package org.holtra.service.workbench;

import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import java.security.Principal;
import java.time.Instant;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.OutletProposal;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The lane workbench: trying, rehearsing, and what helps a person to write a lane. */
@RestController
@RequestMapping("/api/v1")
class WorkbenchController {

    /**
     * @param lane its fields as in a setup file; null for the active lane
     * @param message the id of a stored message; or null
     * @param pasted what would come; or null
     * @param facts supposed of the device
     * @param point to send; for trials of lanes that go by points
     */
    record Trying(
            Map<String, Object> lane, String message, Subjects.Pasted pasted, Map<String, Object> facts, String point) {

        Subjects.Wanted wanted() {
            return new Subjects.Wanted(message, pasted, facts);
        }
    }

    record HitsResult(List<SetupProblem> problems, Hits.Result hits) {}

    /** @param order {@code facts}: {@code then} or {@code now}, now if not given */
    record Rehearsing(Map<String, Object> lane, Long last, Instant from, Instant to, String facts) {}

    /**
     * @param lane its fields as in a setup file; null for the active lane
     * @param key whose values are wanted, and {@code field} which; null for the first
     */
    record Remembering(Map<String, Object> lane, Instant from, Instant to, String key, String field) {}

    record MemoryResult(List<SetupProblem> problems, MemoryRehearsal.Rehearsed rehearsed) {}

    record Pasted(String text) {}

    private final Tries tries;
    private final Trials trials;
    private final Insights insights;
    private final Rehearsals rehearsals;
    private final Bench bench;

    /** What is known of messages and destinations. */
    @org.springframework.stereotype.Component
    record Insights(
            Hits hits, KnownFields fields, Presets presets, MemoryRehearsal memories, List<OutletKind> outletKinds) {}

    WorkbenchController(Tries tries, Trials trials, Insights insights, Rehearsals rehearsals, Bench bench) {
        this.tries = tries;
        this.trials = trials;
        this.insights = insights;
        this.rehearsals = rehearsals;
        this.bench = bench;
    }

    /** Runs one message through a lane, active or being worked on. Sends nothing. */
    @PostMapping("/lanes/{name}/try")
    Tried attempt(@PathVariable String name, @RequestBody Trying trying) {
        return tries.of(name, trying.lane, trying.wanted());
    }

    /** Sends one message through a lane, active or being worked on, to see what comes back. */
    @PostMapping("/lanes/{name}/trial")
    Trials.Sent trial(@PathVariable String name, @RequestBody Trying trying) {
        return trials.send(name, trying.lane, trying.wanted(), trying.point);
    }

    /** How often a lane would have taken one of the last messages, and what its condition's fields were. It needs no outlet. */
    @PostMapping("/lanes/{name}/hits")
    HitsResult hits(@PathVariable String name, @RequestBody Trying trying) {
        SetupCompiler.LaneResult compiled = bench.picking(name, trying.lane);
        return new HitsResult(
                compiled.problems(), compiled.lane().map(insights.hits::of).orElse(null));
    }

    /** Runs a lane, active or being worked on, over messages of the past, in the background. Sends nothing. */
    @PostMapping("/lanes/{name}/rehearsals")
    @ApiResponse(
            responseCode = "202",
            description = "It has begun.",
            content = @Content(schema = @Schema(implementation = Rehearsal.class)))
    ResponseEntity<Object> rehearse(
            @PathVariable String name, @RequestBody Rehearsing rehearsing, Principal principal) {
        SetupCompiler.LaneResult compiled = bench.lane(name, rehearsing.lane);
        if (compiled.lane().isEmpty()) {
            return ResponseEntity.status(HttpStatus.UNPROCESSABLE_CONTENT)
                    .body(Map.of(
                            "title", "The lane has errors",
                            "status", HttpStatus.UNPROCESSABLE_CONTENT.value(),
                            "detail", compiled.problems().getFirst().what(),
                            "problems", compiled.problems()));
        }
        if (rehearsing.last != null && rehearsing.last < 1) {
            throw new IllegalArgumentException("At least one message is rehearsed.");
        }
        return ResponseEntity.accepted()
                .body(rehearsals.start(
                        compiled.lane().get(),
                        bench.setup(),
                        new Rehearsal.Order(
                                rehearsing.last, rehearsing.from, rehearsing.to, "then".equals(rehearsing.facts)),
                        principal.getName()));
    }

    /** Runs a lane with memory over the last day, or another stretch of time: what it would have made. Sends nothing. */
    @PostMapping("/lanes/{name}/memory")
    MemoryResult memory(@PathVariable String name, @RequestBody Remembering wish) {
        SetupCompiler.LaneResult compiled = bench.lane(name, wish.lane);
        if (compiled.lane().isEmpty()) {
            return new MemoryResult(compiled.problems(), null);
        }
        if (compiled.lane().get().memory() == null) {
            throw new IllegalArgumentException(
                    "Lane `" + name + "` has no memory; each of its messages goes by itself.");
        }
        return new MemoryResult(
                List.of(),
                insights.memories.run(
                        compiled.lane().get(),
                        bench.setup(),
                        new MemoryRehearsal.Over(wish.from, wish.to, wish.key, wish.field)));
    }

    /** A rehearsal: how far it is, and what it found. */
    @GetMapping("/rehearsals/{id}")
    ResponseEntity<Rehearsal> rehearsal(@PathVariable String id) {
        return ResponseEntity.of(rehearsals.find(id));
    }

    /** Ends a rehearsal that runs. */
    @DeleteMapping("/rehearsals/{id}")
    ResponseEntity<Void> cancel(@PathVariable String id) {
        return rehearsals.cancel(id)
                ? ResponseEntity.noContent().build()
                : ResponseEntity.notFound().build();
    }

    /**
     * The fields really seen in the last messages of inlets.
     *
     * @param per {@code point} to see each point of a device by itself
     */
    @GetMapping("/fields/known")
    List<KnownFields.Field> fields(@RequestParam String inlets, @RequestParam(defaultValue = "message") String per) {
        return insights.fields.of(new LinkedHashSet<>(Arrays.asList(inlets.split(","))), per.equals("point"));
    }

    /** Takes apart what a destination's documentation shows. Keeps nothing. */
    @PostMapping("/paste")
    OutletProposal paste(@RequestBody Pasted pasted) {
        String text = pasted.text == null ? "" : pasted.text;
        return insights.outletKinds.stream()
                .flatMap(kind -> kind.proposal(text).stream())
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("This cannot be taken apart. It should be "
                        + insights.outletKinds.stream()
                                .map(OutletKind::takesApart)
                                .filter(phrase -> !phrase.isEmpty())
                                .collect(Collectors.joining("; or "))
                        + "."));
    }

    /** Starting points for inlets and outlets. */
    @GetMapping("/presets")
    List<Presets.Preset> presets() {
        return insights.presets.all();
    }
}

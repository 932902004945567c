package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.security.Principal;
import java.util.List;
import org.holtra.core.setup.advice.SetupAdvice;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.setups.SetupRefused;
import org.holtra.service.setups.SetupRevision;
import org.holtra.service.setups.Setups;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

@RestController
@RequestMapping("/api/v1/setup")
class SetupController {

    private static final String YAML = "application/yaml";

    /** @param warnings what can hardly be meant, though it is no error */
    record Checked(boolean good, List<SetupProblem> problems, List<SetupProblem> warnings) {}

    record Adopted(int revision) {}

    /** @param next to ask for older ones, as {@code after}; null if there are none */
    record RevisionPage(List<SetupRevision> revisions, String next) {}

    private final Setups setups;
    private final SetupCompiler compiler;
    private final FieldsSeen fields;

    SetupController(Setups setups, SetupCompiler compiler, FieldsSeen fields) {
        this.setups = setups;
        this.compiler = compiler;
        this.fields = fields;
    }

    /** The active setup, as it was adopted; its revision is in the header Holtra-Setup-Revision. */
    @GetMapping(produces = YAML)
    ResponseEntity<String> export() {
        int revision = setups.current().revision();
        return ResponseEntity.ok()
                .header("Holtra-Setup-Revision", Integer.toString(revision))
                .body(setups.revision(revision).map(SetupRevision::yaml).orElse(""));
    }

    /** Checks a setup as a whole, and changes nothing. */
    @PostMapping(value = "/check", consumes = YAML)
    Checked check(@RequestBody(required = false) String yaml) {
        String text = yaml == null ? "" : yaml;
        SetupCompiler.Result result = setups.check(text);
        List<SetupProblem> warnings =
                result.setup().map(setup -> SetupAdvice.of(text, setup, fields)).orElse(List.of());
        return new Checked(result.problems().isEmpty(), result.problems(), warnings);
    }

    /**
     * Checks a setup as a whole and applies it.
     *
     * @param basedOn the revision it was made from; it is refused if another was adopted since
     * @param waiting what becomes of deliveries of lanes that are removed or sent elsewhere: refuse, drop or follow; leave refuses
     *     too, but lets stay what an outlet that is removed made at its destination
     */
    @PostMapping(value = "/adopt", consumes = YAML)
    Adopted adopt(
            @RequestBody(required = false) String yaml,
            @RequestParam(required = false) Integer basedOn,
            @RequestParam(required = false) String note,
            @RequestParam(defaultValue = "refuse") String waiting,
            Principal principal) {
        return adopted(yaml == null ? "" : yaml, principal.getName(), note, basedOn, waiting);
    }

    /** Revisions of the setup, the newest first, without their text. */
    @GetMapping("/revisions")
    RevisionPage revisions(
            @Parameter(description = "the `next` of the page before, which is a revision")
                    @RequestParam(required = false)
                    String after,
            @RequestParam(defaultValue = "100") int limit) {
        List<SetupRevision> found = setups.revisions(Paging.number(after), Paging.checked(limit));
        return new RevisionPage(found, Paging.next(found, limit, last -> Integer.toString(last.revision())));
    }

    /** A revision of the setup with its text. */
    @GetMapping("/revisions/{revision}")
    SetupRevision revision(@PathVariable int revision) {
        return setups.revision(revision)
                .orElseThrow(() -> Problem.notFound("setup revision", Integer.toString(revision)));
    }

    /** Applies an earlier setup again, as a new revision. */
    @PostMapping("/revisions/{revision}/adopt")
    Adopted undo(
            @PathVariable int revision, @RequestParam(defaultValue = "refuse") String waiting, Principal principal) {
        return adopted(revision(revision).yaml(), principal.getName(), "as in revision " + revision, null, waiting);
    }

    /** The JSON Schema of setup files. */
    @GetMapping("/schema")
    JsonNode schema() {
        return compiler.schema().document();
    }

    private Adopted adopted(String yaml, String by, String note, Integer basedOn, String waiting) {
        try {
            return new Adopted(setups.adopt(yaml, by, note, basedOn, Adoption.waiting(waiting))
                    .revision());
        } catch (SetupRefused e) {
            throw Adoption.refused(e);
        }
    }
}

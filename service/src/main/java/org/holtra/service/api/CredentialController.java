package org.holtra.service.api;

import java.security.Principal;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.holtra.core.setup.Setup;
import org.holtra.core.text.DurationText;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.CredentialForms;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.setups.Setups;
import org.holtra.service.tokens.AccessTokens;
import org.holtra.service.tokens.Expiry;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/credentials")
class CredentialController {

    private static final SecureRandom RANDOM = new SecureRandom();

    /**
     * @param about where the secret stands in the protocol
     * @param schema JSON Schema of its fields; those that are never shown are {@code writeOnly}
     * @param canBeMade whether Holtra can make a secret of this form
     */
    record FormView(String form, String about, Map<String, Object> schema, boolean canBeMade) {}

    /** @param notices what was mended or looks wrong about what was pasted */
    record Saved(String name, String form, List<String> notices) {}

    /**
     * @param secret shown this once
     * @param shown what belongs to it and is no secret, such as the name of its header
     */
    record Made(String name, String form, String secret, Map<String, String> shown) {}

    /**
     * @param secret shown this once
     * @param shown what belongs to it and is no secret
     * @param until when the one before is no longer accepted
     */
    record Rotated(String name, String form, String secret, Map<String, String> shown, Instant until) {}

    private static final Duration LONGEST_OVERLAP = Duration.ofDays(30);

    private final CredentialStore store;
    private final Setups setups;
    private final CredentialForms forms;
    private final InstantSource clock;

    private final AccessTokens tokens;

    CredentialController(
            CredentialStore store, Setups setups, CredentialForms forms, AccessTokens tokens, InstantSource clock) {
        this.tokens = tokens;
        this.store = store;
        this.setups = setups;
        this.forms = forms;
        this.clock = clock;
    }

    /**
     * A credential as it may be shown.
     *
     * @param expires when it ends, as far as it says; null if it does not
     * @param token how the token stands that it was exchanged for; null if it is not exchanged, or was not yet
     */
    record EntryView(
            String name,
            String form,
            Instant changed,
            String changedBy,
            Instant expires,
            AccessTokens.Standing token) {}

    /** Names and forms. What is in them is never shown. */
    @GetMapping
    List<EntryView> list() {
        Map<String, AccessTokens.Standing> standings = tokens.standings();
        return store.all().stream()
                .map(entry -> new EntryView(
                        entry.name(),
                        entry.form(),
                        entry.changed(),
                        entry.changedBy(),
                        store.find(entry.name()).flatMap(Expiry::of).orElse(null),
                        standings.get(entry.name())))
                .toList();
    }

    /** The forms of credential there are, and what each consists of. */
    @GetMapping("/forms")
    List<FormView> forms() {
        return forms.all().stream().map(CredentialController::view).toList();
    }

    private static FormView view(CredentialForm form) {
        Map<String, Object> properties = new LinkedHashMap<>();
        form.fields().forEach(field -> properties.put(field.name(), view(field)));
        Map<String, Object> schema = new LinkedHashMap<>();
        schema.put("title", form.word());
        schema.put("description", form.about());
        schema.put("type", "object");
        schema.put(
                "required",
                form.fields().stream()
                        .filter(field -> field.shape() != CredentialForm.Shape.OPTIONAL_LINE)
                        .map(CredentialForm.Field::name)
                        .toList());
        schema.put("properties", properties);
        schema.put("additionalProperties", false);
        return new FormView(
                form.word(), form.about(), schema, form.generated(RANDOM).isPresent());
    }

    private static Map<String, Object> view(CredentialForm.Field field) {
        Map<String, Object> view = new LinkedHashMap<>(Map.of("title", field.title(), "type", "string"));
        if (field.secret()) {
            view.put("writeOnly", true);
        }
        if (field.shape() == CredentialForm.Shape.PEM) {
            view.put("contentMediaType", "application/x-pem-file");
        }
        return view;
    }

    /**
     * Saves a credential: its {@code form} and the fields of that form. Outlets that use it try again at once.
     */
    @PutMapping("/{name}")
    Saved save(@PathVariable String name, @RequestBody Map<String, String> fields, Principal principal) {
        checkName(name);
        try {
            CredentialForm.Checked checked = form(fields.get("form")).check(fields);
            store.save(name, checked.credential(), principal.getName());
            return new Saved(name, checked.credential().form(), checked.notices());
        } catch (CredentialForm.Unfit e) {
            throw new Problem(
                    HttpStatus.UNPROCESSABLE_CONTENT,
                    "The credential was not saved",
                    Character.toUpperCase(e.getMessage().charAt(0))
                            + e.getMessage().substring(1) + ".",
                    Map.of("field", e.field()));
        }
    }

    /** Makes a secret of this service's own, for an inlet, and shows it this once. */
    @PostMapping("/{name}")
    @ResponseStatus(HttpStatus.CREATED)
    Made make(@PathVariable String name, @RequestParam(defaultValue = "bearer") String form, Principal principal) {
        checkName(name);
        if (store.find(name).isPresent()) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "There is one already",
                    "Credential `" + name
                            + "` exists; making it anew would lock out its senders. Remove it first, or save it.",
                    Map.of());
        }
        Secret made = secret(form, one -> one.generated(RANDOM));
        store.save(name, made.credential, principal.getName());
        return new Made(name, form, made.text, made.shown());
    }

    /**
     * Makes a new secret in place of one, which is accepted for a while longer, so that senders can be changed one after
     * another.
     *
     * @param overlap such as 1d; at most 30 days
     */
    @PostMapping("/{name}/rotate")
    Rotated rotate(@PathVariable String name, @RequestParam(defaultValue = "1d") String overlap, Principal principal) {
        Credential before = store.find(name).orElseThrow(() -> Problem.notFound("credential", name));
        if (!overlap.matches(DurationText.PATTERN)
                || DurationText.parse(overlap).compareTo(LONGEST_OVERLAP) > 0) {
            throw Problem.badRequest("overlap", "An overlap is a span such as 12h or 1d, and no longer than 30d.");
        }
        Secret made = secret(before.form(), form -> form.renewed(before, RANDOM));
        Instant until = clock.instant().plus(DurationText.parse(overlap));
        store.rotate(name, made.credential, until, principal.getName());
        return new Rotated(name, before.form(), made.text, made.shown(), until);
    }

    private record Secret(Credential credential, String text) {

        /** What belongs to the secret and is none, such as the name of its header. */
        Map<String, String> shown() {
            Map<String, String> shown = new LinkedHashMap<>();
            credential.fields().forEach((name, value) -> {
                if (!value.equals(text)) {
                    shown.put(name, value);
                }
            });
            return shown;
        }
    }

    private Secret secret(String word, Function<CredentialForm, Optional<Map<String, String>>> fields) {
        Credential credential = forms.find(word)
                .flatMap(form -> fields.apply(form).map(form::credential))
                .orElseThrow(() -> Problem.badRequest(
                        "form",
                        "Only credentials of the form "
                                + words(form -> form.generated(RANDOM).isPresent(), " or ")
                                + " can be made here; save others as they are."));
        return new Secret(credential, credential.secrets().getFirst());
    }

    private CredentialForm form(String word) throws CredentialForm.Unfit {
        return forms.find(word)
                .orElseThrow(() -> new CredentialForm.Unfit("form", "the form is one of " + words(form -> true, ", ")));
    }

    private String words(Predicate<CredentialForm> which, String between) {
        return forms.all().stream().filter(which).map(CredentialForm::word).collect(Collectors.joining(between));
    }

    /** Removes a credential that no inlet and no outlet uses. */
    @DeleteMapping("/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void remove(@PathVariable String name) {
        List<String> users = users(name);
        if (!users.isEmpty()) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "It is in use",
                    "Credential `" + name + "` is used by " + String.join(", ", users) + ".",
                    Map.of());
        }
        if (!store.remove(name)) {
            throw Problem.notFound("credential", name);
        }
    }

    private List<String> users(String name) {
        Setup setup = setups.current();
        Map<String, Object> users = new LinkedHashMap<>();
        setup.inlets().values().forEach(inlet -> users.put("inlet `" + inlet.name() + "`", inlet.credential()));
        setup.connections()
                .values()
                .forEach(connection -> users.put("connection `" + connection.name() + "`", connection.credential()));
        setup.outlets().values().forEach(outlet -> users.put("outlet `" + outlet.name() + "`", outlet.credential()));
        return users.entrySet().stream()
                .filter(user -> name.equals(user.getValue()))
                .map(Map.Entry::getKey)
                .toList();
    }

    private static void checkName(String name) {
        if (!name.matches("[a-z][a-z0-9-]{0,62}")) {
            throw Problem.badRequest(
                    "name",
                    "`" + name + "` is no name: use lower-case letters, digits and dashes, beginning with a letter.");
        }
    }
}

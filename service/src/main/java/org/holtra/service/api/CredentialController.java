package org.holtra.service.api;

import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.Span;
import org.holtra.service.access.Secrets;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.setups.Setups;
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

    private static final int SECRET_BYTES = 32;

    /** @param notices what was mended or looks wrong about what was pasted */
    record Saved(String name, String form, List<String> notices) {}

    /** @param secret shown this once */
    record Made(String name, String form, String secret) {}

    /**
     * @param secret shown this once
     * @param until when the one before is no longer accepted
     */
    record Rotated(String name, String form, String secret, Instant until) {}

    private static final Duration LONGEST_OVERLAP = Duration.ofDays(30);

    private final CredentialStore store;
    private final Setups setups;
    private final Secrets secrets;
    private final InstantSource clock;

    CredentialController(CredentialStore store, Setups setups, Secrets secrets, InstantSource clock) {
        this.store = store;
        this.setups = setups;
        this.secrets = secrets;
        this.clock = clock;
    }

    /** Names and forms. What is in them is never shown. */
    @GetMapping
    List<CredentialStore.Entry> list() {
        return store.all();
    }

    /**
     * Saves a credential: {@code form} is bearer (token), basic (user, password), header or query (name, value) or
     * signature (secret). Outlets that use it try again at once.
     */
    @PutMapping("/{name}")
    Saved save(@PathVariable String name, @RequestBody Map<String, String> fields, Principal principal) {
        checkName(name);
        try {
            CredentialForm.Checked checked = new CredentialForm(fields.get("form"), fields).check();
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
        Secret made = secret(form);
        store.save(name, made.credential, principal.getName());
        return new Made(name, form, made.text);
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
        if (!overlap.matches(Span.PATTERN) || Span.parse(overlap).compareTo(LONGEST_OVERLAP) > 0) {
            throw Problem.badRequest("overlap", "An overlap is a span such as 12h or 1d, and no longer than 30d.");
        }
        Secret made = secret(before.form());
        Instant until = clock.instant().plus(Span.parse(overlap));
        store.rotate(name, made.credential, until, principal.getName());
        return new Rotated(name, before.form(), made.text, until);
    }

    private record Secret(Credential credential, String text) {}

    private Secret secret(String form) {
        return switch (form) {
            case "bearer" -> {
                String token = secrets.next(SECRET_BYTES);
                yield new Secret(new Credential.Bearer(token), token);
            }
            case "signature" -> {
                String secret = "whsec_" + Base64.getEncoder().encodeToString(secrets.bytes(SECRET_BYTES));
                yield new Secret(new Credential.Signature(secret), secret);
            }
            default ->
                throw Problem.badRequest(
                        "form", "Only bearer and signature credentials can be made here; save others as they are.");
        };
    }

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
        setup.inlets()
                .values()
                .forEach(inlet ->
                        users.put("inlet `" + inlet.name() + "`", inlet.at().get("credential")));
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

package org.holtra.service.api;

import java.security.Principal;
import java.util.List;
import java.util.Map;
import org.holtra.service.access.ApiKeys;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/keys")
class KeyController {

    /** @param key shown this once */
    record Made(String name, String key) {}

    private static final String NAME = "[\\p{L}\\p{N} ._-]{1,100}";

    private final ApiKeys keys;

    KeyController(ApiKeys keys) {
        this.keys = keys;
    }

    /** The API keys there are. The keys themselves are never shown again. */
    @GetMapping
    List<ApiKeys.Entry> list() {
        return keys.all();
    }

    /** Makes an API key for a program. */
    @PostMapping("/{name}")
    @ResponseStatus(HttpStatus.CREATED)
    Made make(@PathVariable String name, Principal principal) {
        if (!name.matches(NAME)) {
            throw Problem.badRequest(
                    "name",
                    "The name of a key has 1 to 100 letters, digits, spaces and the signs . _ - and no others.");
        }
        return keys.make(name, principal.getName())
                .map(key -> new Made(name, key))
                .orElseThrow(() -> new Problem(
                        HttpStatus.CONFLICT, "There is one already", "API key `" + name + "` exists.", Map.of()));
    }

    /** Removes an API key; programs that use it are refused at once. */
    @DeleteMapping("/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void remove(@PathVariable String name) {
        if (!keys.remove(name)) {
            throw Problem.notFound("API key", name);
        }
    }
}

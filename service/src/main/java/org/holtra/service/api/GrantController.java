package org.holtra.service.api;

import jakarta.servlet.http.HttpServletRequest;
import java.security.Principal;
import java.time.Instant;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.tokens.Grants;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.support.ServletUriComponentsBuilder;

/** Links by which owners grant access. */
@RestController
class GrantController {

    /**
     * @param address to be sent to the owner; shown this once
     * @param until when it ends
     */
    record LinkView(String address, Instant until) {}

    private final Grants grants;
    private final Home home;

    /** The service's own address, as browsers reach it. */
    @Component
    record Home(HoltraSettings settings) {

        String of(HttpServletRequest request) {
            return settings.publicAddress() != null
                    ? settings.publicAddress()
                    : ServletUriComponentsBuilder.fromContextPath(request)
                            .build()
                            .toUriString();
        }
    }

    GrantController(Grants grants, Home home) {
        this.grants = grants;
        this.home = home;
    }

    /** Makes a link that an owner opens to consent. It serves once, within seven days. */
    @PostMapping("/api/v1/credentials/{name}/link")
    LinkView link(@PathVariable String name, Principal principal, HttpServletRequest request) {
        try {
            Grants.Link link = grants.link(name, principal.getName());
            return new LinkView(home.of(request) + "/grants/" + link.text(), link.until());
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("name", e.getMessage());
        }
    }
}

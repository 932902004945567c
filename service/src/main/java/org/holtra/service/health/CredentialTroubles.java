package org.holtra.service.health;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.tokens.AccessTokens;
import org.holtra.service.tokens.Expiry;
import org.springframework.stereotype.Component;

/** Credentials in use that end soon, and those that give no token any longer. */
@Component
class CredentialTroubles {

    private static final Duration AHEAD = Duration.ofDays(14);

    private final CredentialStore credentials;
    private final AccessTokens tokens;

    CredentialTroubles(CredentialStore credentials, AccessTokens tokens) {
        this.credentials = credentials;
        this.tokens = tokens;
    }

    List<Trouble> all(Setup setup, Instant now) {
        List<Trouble> all = new ArrayList<>();
        Set<String> used = used(setup);
        for (String name : used) {
            credentials
                    .find(name)
                    .flatMap(Expiry::of)
                    .filter(expires -> expires.isBefore(now.plus(AHEAD)))
                    .ifPresent(expires -> all.add(new Trouble("credential", name, now, ends(name, expires, now))));
        }
        for (Map.Entry<String, AccessTokens.Standing> one : tokens.standings().entrySet()) {
            String failure = one.getValue().failure();
            if (failure != null && !failure.equals("later")) {
                all.add(new Trouble(
                        "credential",
                        one.getKey(),
                        now,
                        "credential " + one.getKey() + " gives no token: "
                                + one.getValue().reason()));
            }
        }
        return all;
    }

    private static String ends(String name, Instant expires, Instant now) {
        long days = Duration.between(now, expires).toDays();
        return expires.isBefore(now)
                ? "credential " + name + " ended " + expires
                : "credential " + name + " ends " + (days == 0 ? "within a day" : "in " + days + " days") + ", "
                        + expires + "; replace it before";
    }

    private static Set<String> used(Setup setup) {
        return Stream.of(
                        setup.inlets().values().stream().map(Inlet::credential),
                        setup.outlets().values().stream().map(Outlet::credential),
                        setup.connections().values().stream().map(one -> one.credential()))
                .flatMap(names -> names)
                .filter(name -> name != null)
                .collect(Collectors.toSet());
    }
}

package org.holtra.service.dispatch;

import java.time.InstantSource;
import java.util.Map;
import java.util.Set;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Outlet;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.tokens.AccessTokens;
import org.holtra.service.tokens.TokenFailure;
import org.springframework.stereotype.Component;

/** Finds the credential that a request shows: the outlet's own, the device's, one chosen by the device, or a token. */
@Component
public class Presenting {

    /** Stands in requests that are only shown. */
    private static final Presented UNSEEN =
            new Presented(new Credential("bearer", Map.of("token", "not asked for"), Set.of("token")), null, false);

    private final CredentialStore credentials;
    private final AccessTokens tokens;
    private final InstantSource clock;

    Presenting(CredentialStore credentials, AccessTokens tokens, InstantSource clock) {
        this.credentials = credentials;
        this.tokens = tokens;
        this.clock = clock;
    }

    /**
     * @param known how the device is known at the destination; null if it need not be
     * @param scope in which the outlet's choice is made
     * @return null for the outlet's own credential, as it was opened with
     * @throws NotPresented if there is none to show
     */
    public Presented of(Outlet outlet, Introduction known, Scope scope) throws NotPresented {
        if (known != null && known.credential() != null) {
            return new Presented(known.credential(), null, true);
        }
        if (outlet.credentialBy() != null) {
            return chosen(outlet, scope);
        }
        return tokens.isLive(outlet.credential()) ? token(outlet.credential(), false) : null;
    }

    private Presented chosen(Outlet outlet, Scope scope) throws NotPresented {
        String source = outlet.credentialBy().source();
        switch (outlet.credentialBy().evaluate(scope)) {
            case Outcome.None(String reason, boolean missing) ->
                throw held("no credential can be chosen by `" + source + "`: " + reason);
            case Outcome.Value(Object value) -> {
                String name = Plain.text(value);
                if (tokens.isLive(name)) {
                    return token(name, true);
                }
                Credential credential = credentials
                        .find(name)
                        .orElseThrow(() -> held("there is no credential `" + name + "`, which `" + source + "` gives"));
                return new Presented(credential, null, true);
            }
        }
    }

    private static NotPresented held(String reason) {
        return new NotPresented(new Verdict.DeviceHeld(reason));
    }

    private Presented token(String name, boolean ofDevice) throws NotPresented {
        try {
            return new Presented(tokens.presented(name), name, ofDevice);
        } catch (TokenFailure e) {
            String reason = "credential " + name + ": " + e.getMessage();
            throw new NotPresented(
                    ofDevice
                            ? new Verdict.DeviceHeld(reason)
                            : e.kind() == TokenFailure.Kind.LATER
                                    ? new Verdict.TryLater(reason, null, false, true)
                                    : new Verdict.OutletBlocked(reason));
        }
    }

    /** What stands in the place of a credential where nothing is sent: no token is asked for. */
    public Presented shown(Outlet outlet, Introduction known) {
        if (known != null && known.credential() != null) {
            return new Presented(known.credential(), null, true);
        }
        return outlet.credentialBy() != null || tokens.isLive(outlet.credential()) ? UNSEEN : null;
    }

    /** A token that was refused may be over before its time: then a fresh one is tried before anything is said of anybody. */
    Attempted weighed(Attempted attempted, Presented presented) {
        boolean refused = presented != null
                && presented.token() != null
                && (attempted.verdict() instanceof Verdict.OutletBlocked
                        || attempted.verdict() instanceof Verdict.DeviceHeld && "401".equals(attempted.code()));
        if (!refused || !tokens.refused(presented.token(), presented.credential())) {
            return attempted;
        }
        return new Attempted(
                new Verdict.TryLater(
                        attempted.verdict().reason() + "; a fresh token is asked for", clock.instant(), false, false),
                attempted.code(),
                attempted.cause(),
                attempted.exchange(),
                attempted.parts());
    }
}

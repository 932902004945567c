package org.holtra.service.tokens;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialStore;
import org.springframework.stereotype.Component;

/**
 * Owners' consents: a link that an owner opens, which leads to the authorization server and back (RFC 6749, section 4.1, with the
 * proof of RFC 7636).
 */
@Component
public class Grants {

    /** Where the authorization server sends the owner back to, below the service's address. */
    public static final String BACK = "/grants/back";

    private static final Duration LINK_LIVES = Duration.ofDays(7);
    private static final int BYTES = 32;

    private final GrantLinkMapper mapper;
    private final AccessTokens tokens;
    private final CredentialStore credentials;
    private final InstantSource clock;
    private final SecureRandom random = new SecureRandom();

    /** @param text the last part of the link's address, shown this once */
    public record Link(String text, Instant until) {}

    /**
     * What an owner is asked for.
     *
     * @param server the authorization server's address
     * @param owner as the credential names them; empty if it does not
     */
    public record Asked(String credential, String server, String client, List<String> scopes, String owner) {}

    /** Why an owner's way ended, in a sentence. */
    public static final class Ended extends Exception {

        private static final long serialVersionUID = 1L;

        Ended(String reason) {
            super(reason);
        }
    }

    Grants(GrantLinkMapper mapper, AccessTokens tokens, CredentialStore credentials, InstantSource clock) {
        this.mapper = mapper;
        this.tokens = tokens;
        this.credentials = credentials;
        this.clock = clock;
    }

    /** @throws IllegalArgumentException if it is no credential that an owner consents to */
    public Link link(String credential, String by) {
        grant(credential)
                .orElseThrow(() -> new IllegalArgumentException(
                        "Credential " + credential + " is not of the form grant, so nobody has to consent."));
        String text = text();
        Instant now = clock.instant();
        mapper.forget(now.minus(LINK_LIVES));
        mapper.make(digest(text), credential, by, now, now.plus(LINK_LIVES));
        return new Link(text, now.plus(LINK_LIVES));
    }

    private Optional<Credential> grant(String name) {
        return credentials.find(name).filter(one -> one.form().equals(TokenForm.GRANT.word()));
    }

    /** @throws Ended if the link is none, was used, or is over */
    public Asked asked(String link) throws Ended {
        GrantLinkMapper.Row row = open(link);
        Credential credential = there(row.credential());
        return new Asked(
                row.credential(),
                credential.field("authorizeUrl"),
                credential.field("clientId"),
                Stream.of(credential.field("scope").split("\\s+"))
                        .filter(scope -> !scope.isEmpty())
                        .toList(),
                credential.field("owner"));
    }

    private GrantLinkMapper.Row open(String link) throws Ended {
        GrantLinkMapper.Row row = mapper.find(digest(link));
        if (row == null) {
            throw new Ended("This link leads nowhere. Ask whoever sent it for another.");
        }
        if (row.used() != null) {
            throw new Ended("This link was used already. Access was granted by it; nothing is left to do.");
        }
        if (clock.instant().isAfter(row.until())) {
            throw new Ended("This link is too old. Ask whoever sent it for another.");
        }
        return row;
    }

    private Credential there(String name) throws Ended {
        return grant(name).orElseThrow(() -> new Ended("What this link is for is no longer there."));
    }

    /**
     * Where the owner is to be sent.
     *
     * @param home the service's own address, as the owner's browser reaches it
     * @throws Ended if the link is none, was used, or is over
     */
    public String begin(String link, String home) throws Ended {
        GrantLinkMapper.Row row = open(link);
        Credential credential = there(row.credential());
        String state = text();
        String verifier = text();
        mapper.begin(row.link(), digest(state), sealed(row.credential(), verifier));
        Map<String, String> query = Map.of(
                "response_type",
                "code",
                "client_id",
                credential.field("clientId"),
                "redirect_uri",
                home + BACK,
                "scope",
                credential.field("scope"),
                "state",
                state,
                "code_challenge",
                challenge(verifier),
                "code_challenge_method",
                "S256");
        String address = credential.field("authorizeUrl");
        return address
                + (address.contains("?") ? "&" : "?")
                + query.entrySet().stream()
                        .filter(one -> !one.getValue().isEmpty())
                        .map(one -> one.getKey() + "=" + URLEncoder.encode(one.getValue(), StandardCharsets.UTF_8))
                        .collect(Collectors.joining("&"));
    }

    /**
     * The owner came back.
     *
     * @param error that the authorization server gave instead of a code; null if there is none
     * @return the credential that is good now
     * @throws Ended if nothing came of it
     */
    public String back(String state, String code, String error, String home) throws Ended {
        byte[] digest = digest(state == null ? "" : state);
        GrantLinkMapper.Row row = mapper.byState(digest);
        if (row == null || mapper.use(digest, clock.instant()) == 0) {
            throw new Ended("This page is the end of a way that was not begun here, or has ended already.");
        }
        if (code == null) {
            mapper.reopen(row.link());
            throw new Ended("Access was not granted" + (error == null ? "." : ": " + error + ".")
                    + " The link can be opened again.");
        }
        try {
            tokens.consented(row.credential(), code, opened(row.credential(), row.verifier()), home + BACK);
            return row.credential();
        } catch (TokenFailure e) {
            mapper.reopen(row.link());
            throw new Ended(
                    "Access was granted, and then not given: " + e.getMessage() + ". The link can be opened again.");
        }
    }

    private byte[] sealed(String name, String verifier) {
        return credentials.sealed(name, new Credential("verifier", Map.of("verifier", verifier), Set.of("verifier")));
    }

    private String opened(String name, byte[] sealed) {
        return credentials.opened(name, sealed).field("verifier");
    }

    private String text() {
        byte[] bytes = new byte[BYTES];
        random.nextBytes(bytes);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    private static String challenge(String verifier) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(digest(verifier));
    }

    private static byte[] digest(String text) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.US_ASCII));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }
}

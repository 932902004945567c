package org.holtra.standins.authorization;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.PublicKey;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/** What the authorization server knows: its clients, the owners' consents, and the tokens it gave. */
public final class Authorization {

    /** A token and whom it belongs to. */
    private record Token(String owner, String client, String scope, Instant expires) {}

    /** An owner's consent, until it is exchanged. */
    private record Code(String owner, String client, String scope, String challenge, String redirect) {}

    private final Map<String, String> clients = new ConcurrentHashMap<>();
    private final Map<String, PublicKey> signers = new ConcurrentHashMap<>();
    private final Map<String, Code> codes = new HashMap<>();
    private final Map<String, Token> tokens = new HashMap<>();
    private final Map<String, Token> refreshes = new HashMap<>();
    private final Set<String> revoked = new HashSet<>();
    private final InstantSource clock;
    private final Random random;
    private Duration lives = Duration.ofHours(1);
    private int given;
    private int refreshed;

    public Authorization(InstantSource clock, Random random) {
        this.clock = clock;
        this.random = random;
    }

    /** @param secret empty for a public client */
    public void client(String id, String secret) {
        clients.put(id, secret);
    }

    /** Whose assertions are believed. */
    public void signer(String issuer, PublicKey key) {
        signers.put(issuer, key);
    }

    Optional<PublicKey> signerOf(String issuer) {
        return Optional.ofNullable(signers.get(issuer));
    }

    boolean knows(String client) {
        return clients.containsKey(client);
    }

    boolean isClient(String id, String secret) {
        return clients.containsKey(id) && clients.get(id).equals(secret);
    }

    /** How long tokens live from now on. */
    public synchronized void setLives(Duration other) {
        lives = other;
    }

    /** The owner takes the consent back: no token of theirs is good any longer. */
    public synchronized void revoke(String owner) {
        revoked.add(owner);
        tokens.values().removeIf(token -> owner.equals(token.owner));
        refreshes.values().removeIf(token -> owner.equals(token.owner));
    }

    /** All tokens that were given are worthless from now on; they can be had anew. */
    public synchronized void forgetTokens() {
        tokens.clear();
    }

    synchronized String consent(String owner, String client, String scope, String challenge, String redirect) {
        revoked.remove(owner);
        String code = text();
        codes.put(code, new Code(owner, client, scope, challenge, redirect));
        return code;
    }

    /**
     * @param owner null for a client by itself
     * @param withRefresh whether it can be had anew without its owner
     */
    synchronized Map<String, Object> give(String owner, String client, String scope, boolean withRefresh) {
        given++;
        String token = text();
        tokens.put(token, new Token(owner, client, scope, clock.instant().plus(lives)));
        Map<String, Object> answer = new HashMap<>();
        answer.put("access_token", token);
        answer.put("token_type", "Bearer");
        answer.put("expires_in", lives.toSeconds());
        answer.put("scope", scope);
        if (withRefresh) {
            String refresh = text();
            refreshes.put(refresh, new Token(owner, client, scope, Instant.MAX));
            answer.put("refresh_token", refresh);
        }
        return answer;
    }

    /** Empty if the code is none, was used, or was asked for by another (RFC 7636, section 4.6). */
    synchronized Optional<Map<String, Object>> exchange(String code, String client, String verifier, String redirect) {
        Code known = codes.remove(code);
        if (known == null
                || !known.client.equals(client)
                || !known.redirect.equals(redirect)
                || !known.challenge.equals(challenge(verifier))) {
            return Optional.empty();
        }
        return Optional.of(give(known.owner, client, known.scope, true));
    }

    /** Each serves once: the next comes with the token. */
    synchronized Optional<Map<String, Object>> refresh(String refresh, String client) {
        Token known = refreshes.remove(refresh);
        if (known == null || !known.client.equals(client) || revoked.contains(known.owner)) {
            return Optional.empty();
        }
        refreshed++;
        return Optional.of(give(known.owner, client, known.scope, true));
    }

    /** Whom a token speaks for: its owner, or the client itself; empty if it is worth nothing. */
    public synchronized Optional<String> speaksFor(String token) {
        Token known = tokens.get(token);
        return known == null || !clock.instant().isBefore(known.expires)
                ? Optional.empty()
                : Optional.of(known.owner == null ? known.client : known.owner);
    }

    /** How many tokens were given. */
    public synchronized int given() {
        return given;
    }

    /** How many of them without the owner. */
    public synchronized int refreshed() {
        return refreshed;
    }

    static String challenge(String verifier) {
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256").digest(verifier.getBytes(StandardCharsets.US_ASCII));
            return Base64.getUrlEncoder().withoutPadding().encodeToString(digest);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    private String text() {
        byte[] bytes = new byte[24];
        random.nextBytes(bytes);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }
}

package org.holtra.service.tokens;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.LockSupport;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.service.cluster.Node;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialChanged;
import org.holtra.service.credentials.CredentialStore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * The tokens that credentials are exchanged for. Each is asked for ahead of its end, by one node at a time, and kept sealed for
 * all nodes; as long as it is good nobody waits for the next one.
 */
@Component
public class AccessTokens implements AutoCloseable {

    private static final Duration NODE_HAS = Duration.ofSeconds(25);
    private static final Duration PATIENCE_WITH_OTHERS = Duration.ofSeconds(12);
    private static final Duration LATER = Duration.ofSeconds(1);
    private static final Duration BLOCKED = Duration.ofMinutes(1);
    private static final Instant NEVER = Instant.parse("9999-01-01T00:00:00Z");
    private static final long LOOK_AGAIN_NANOS = 100_000_000;
    /** A token that is refused sooner than this after it came is not to blame. */
    private static final Duration FRESH = Duration.ofSeconds(20);

    private static final Logger log = LoggerFactory.getLogger(AccessTokens.class);

    private final TokenMapper mapper;
    private final TokenEndpoint endpoint;
    private final CredentialStore credentials;
    private final Node node;
    private final InstantSource clock;
    private final Map<String, LiveToken> known = new ConcurrentHashMap<>();
    private final Map<String, ReentrantLock> asking = new ConcurrentHashMap<>();
    private final Set<String> ahead = ConcurrentHashMap.newKeySet();
    private final ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor();

    /**
     * How the token of a credential stands.
     *
     * @param expires null if there is none, or it does not
     * @param failure {@code later}, {@code blocked} or {@code revoked}; null if nothing went wrong last
     */
    public record Standing(String scope, Instant expires, Instant refreshed, String failure, String reason) {}

    AccessTokens(
            TokenMapper mapper, TokenEndpoint endpoint, CredentialStore credentials, Node node, InstantSource clock) {
        this.mapper = mapper;
        this.endpoint = endpoint;
        this.credentials = credentials;
        this.node = node;
        this.clock = clock;
    }

    /** Whether a credential is exchanged for a token before anything is sent. */
    public boolean isLive(String credential) {
        return form(credential).isPresent();
    }

    private Optional<TokenForm> form(String credential) {
        return credentials.find(credential).flatMap(one -> TokenForm.find(one.form()));
    }

    /** Somebody saved it anew: the token was for what it was before. */
    @EventListener
    void changed(CredentialChanged event) {
        known.remove(event.name());
        if (!isLive(event.name())) {
            return;
        }
        mapper.forget(event.name());
    }

    /**
     * What is presented for a credential now.
     *
     * @throws TokenFailure if there is none, with the reason
     */
    public Credential presented(String name) throws TokenFailure {
        Instant now = clock.instant();
        LiveToken token = known.get(name);
        if (token == null || !token.isGood(now)) {
            return next(name).credential();
        }
        if (token.isDue(now) && ahead.add(name)) {
            threads.execute(() -> askAhead(name));
        }
        return token.credential();
    }

    /** Nobody waits for it: the token there is does for a while. */
    private void askAhead(String name) {
        try {
            next(name);
        } catch (TokenFailure e) {
            log.warn("Credential {}: the next token did not come ahead of time: {}", name, e.getMessage());
        } catch (DataAccessException | TransactionException e) {
            log.debug("Credential {}: the next token waits for the database", name, e);
        } finally {
            ahead.remove(name);
        }
    }

    private LiveToken next(String name) throws TokenFailure {
        ReentrantLock lock = asking.computeIfAbsent(name, one -> new ReentrantLock());
        lock.lock();
        try {
            Instant now = clock.instant();
            LiveToken token = known.get(name);
            if (token != null && token.isGood(now) && !token.isDue(now)) {
                return token; // it came while this one waited for the lock
            }
            LiveToken fresh = asked(name);
            known.put(name, fresh);
            return fresh;
        } finally {
            lock.unlock();
        }
    }

    private LiveToken asked(String name) throws TokenFailure {
        Credential credential = credentials
                .find(name)
                .orElseThrow(() -> new TokenFailure(
                        TokenFailure.Kind.BLOCKED, "there is no credential called " + name + "; save it"));
        TokenForm form = TokenForm.find(credential.form()).orElseThrow();
        if (form == TokenForm.SIGNED) {
            return SignedToken.of(credential, clock.instant());
        }
        Instant until = clock.instant().plus(PATIENCE_WITH_OTHERS);
        while (true) {
            Instant now = clock.instant();
            TokenMapper.Row row = mapper.find(name);
            LiveToken there = row == null || row.token() == null ? null : token(name, row);
            if (there != null && there.isGood(now) && !there.isDue(now)) {
                return there;
            }
            if (row != null && row.failure() != null && now.isBefore(row.nextTry())) {
                if (there != null && there.isGood(now)) {
                    return there;
                }
                throw new TokenFailure(
                        TokenFailure.Kind.of(row.failure()).orElse(TokenFailure.Kind.LATER), row.reason());
            }
            if (mapper.take(name, node.id(), now, now.plus(NODE_HAS)) > 0) {
                return asked(name, form, credential, row);
            }
            if (now.isAfter(until)) {
                throw new TokenFailure(
                        TokenFailure.Kind.LATER, "another node asks for its token and has no answer yet");
            }
            LockSupport.parkNanos(LOOK_AGAIN_NANOS);
        }
    }

    private LiveToken asked(String name, TokenForm form, Credential credential, TokenMapper.Row row)
            throws TokenFailure {
        try {
            String refresh = row == null || row.refresh() == null ? null : opened(name, row.refresh());
            TokenAnswer answer = endpoint.ask(
                    credential.field("tokenUrl"),
                    TokenRequest.of(form, credential, refresh, clock.instant()),
                    TokenRequest.basic(form, credential),
                    secrets(credential, refresh));
            return keep(name, answer, refresh);
        } catch (TokenFailure e) {
            Instant now = clock.instant();
            mapper.failed(
                    name,
                    e.kind().word(),
                    e.getMessage(),
                    switch (e.kind()) {
                        case LATER -> now.plus(LATER);
                        case BLOCKED -> now.plus(BLOCKED);
                        case REVOKED -> NEVER;
                    });
            throw e;
        }
    }

    private static List<String> secrets(Credential credential, String refresh) {
        List<String> secrets = new ArrayList<>(credential.secrets());
        if (refresh != null) {
            secrets.add(refresh);
        }
        return secrets;
    }

    private LiveToken keep(String name, TokenAnswer answer, String refreshBefore) {
        Instant now = clock.instant();
        String refresh = answer.refresh() == null ? refreshBefore : answer.refresh();
        Instant expires = answer.lives() == null ? null : now.plus(answer.lives());
        mapper.came(new TokenMapper.Row(
                name,
                sealed(name, answer.token()),
                expires,
                refresh == null ? null : sealed(name, refresh),
                answer.scope(),
                now,
                null,
                null,
                null));
        return new LiveToken(answer.token(), expires, now, LiveToken.AS_BEARER);
    }

    /**
     * Exchanges the code with which an owner came back.
     *
     * @throws TokenFailure if the authorization server does not take it
     */
    public void consented(String name, String code, String verifier, String redirect) throws TokenFailure {
        Credential credential = credentials
                .find(name)
                .orElseThrow(() -> new TokenFailure(TokenFailure.Kind.BLOCKED, "the credential is no longer there"));
        TokenAnswer answer = endpoint.ask(
                credential.field("tokenUrl"),
                TokenRequest.code(credential, code, verifier, redirect),
                TokenRequest.basic(TokenForm.GRANT, credential),
                credential.secrets());
        Instant now = clock.instant();
        mapper.take(name, node.id(), now, now);
        known.put(name, keep(name, answer, null));
        credentials.touched(name);
    }

    /**
     * A destination refused a token.
     *
     * @return whether a fresh one is worth a try: this one is not new
     */
    public boolean refused(String name, Credential presented) {
        LiveToken token = known.get(name);
        Instant now = clock.instant();
        if (token == null || !token.credential().fields().equals(presented.fields())) {
            return true; // there is another by now
        }
        if (token.made().plus(FRESH).isAfter(now)) {
            return false;
        }
        known.remove(name, token);
        mapper.refused(name, now.minus(FRESH), now);
        return true;
    }

    /** Seals with the first key of the key file what was sealed with another, so that the other can be taken out of it. */
    public void sealAnew() {
        for (TokenMapper.Row row : mapper.all()) {
            String name = row.credential();
            boolean old = row.token() != null && credentials.isSealedWithOldKey(name, row.token())
                    || row.refresh() != null && credentials.isSealedWithOldKey(name, row.refresh());
            if (old) {
                mapper.reseal(name, resealed(name, row.token()), resealed(name, row.refresh()));
            }
        }
    }

    private byte[] resealed(String name, byte[] sealed) {
        return sealed == null ? null : sealed(name, opened(name, sealed));
    }

    /** How the token of each credential stands that is exchanged for one. */
    public Map<String, Standing> standings() {
        Map<String, Standing> all = new LinkedHashMap<>();
        mapper.all()
                .forEach(row -> all.put(
                        row.credential(),
                        new Standing(row.scope(), row.expires(), row.refreshed(), row.failure(), row.reason())));
        return all;
    }

    private LiveToken token(String name, TokenMapper.Row row) {
        return new LiveToken(opened(name, row.token()), row.expires(), row.refreshed(), LiveToken.AS_BEARER);
    }

    private byte[] sealed(String name, String secret) {
        return credentials.sealed(name, new Credential("token", Map.of("token", secret), Set.of("token")));
    }

    private String opened(String name, byte[] sealed) {
        return credentials.opened(name, sealed).field("token");
    }

    @Override
    public void close() {
        threads.shutdownNow();
    }
}

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
    private final Map<String, Held> known = new ConcurrentHashMap<>();
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

    /** @param of when the credential was saved that it was asked for with */
    private record Held(LiveToken token, Instant of) {}

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

    /** Somebody saved or removed it: the token was for what it was before. */
    @EventListener
    void changed(CredentialChanged event) {
        known.remove(event.name());
        mapper.forget(event.name());
    }

    /**
     * What is presented for a credential now.
     *
     * @throws TokenFailure if there is none, with the reason
     */
    public Credential presented(String name) throws TokenFailure {
        Instant now = clock.instant();
        LiveToken token = known(name);
        if (token == null || !token.isGood(now)) {
            return next(name).credential();
        }
        if (token.isDue(now) && ahead.add(name)) {
            threads.execute(() -> askAhead(name));
        }
        return token.credential();
    }

    /** Null if there is none, or the credential was saved anew since. */
    private LiveToken known(String name) {
        Held held = known.get(name);
        return held != null
                        && credentials
                                .version(name)
                                .filter(one -> one.changed().equals(held.of))
                                .isPresent()
                ? held.token
                : null;
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
            LiveToken token = known(name);
            if (token != null && token.isGood(now) && !token.isDue(now)) {
                return token; // it came while this one waited for the lock
            }
            Held fresh = asked(name);
            known.put(name, fresh);
            return fresh.token;
        } finally {
            lock.unlock();
        }
    }

    private CredentialStore.Version version(String name) throws TokenFailure {
        return credentials
                .version(name)
                .orElseThrow(() -> new TokenFailure(
                        TokenFailure.Kind.BLOCKED, "there is no credential called " + name + "; save it"));
    }

    private Held asked(String name) throws TokenFailure {
        Instant until = clock.instant().plus(PATIENCE_WITH_OTHERS);
        while (true) {
            Instant now = clock.instant();
            CredentialStore.Version version = version(name);
            TokenForm form = TokenForm.find(version.credential().form())
                    .orElseThrow(() -> new TokenFailure(
                            TokenFailure.Kind.LATER, "it was saved anew, and is no longer exchanged for a token"));
            if (form == TokenForm.SIGNED) {
                return new Held(SignedToken.of(version.credential(), now), version.changed());
            }
            TokenMapper.Row row = mapper.find(name, version.changed());
            LiveToken token = settled(name, row, now);
            if (token == null) {
                if (row == null) {
                    mapper.forget(name);
                }
                TokenMapper.Turn turn = new TokenMapper.Turn(name, version.changed(), node.id(), now.plus(NODE_HAS));
                token = mapper.take(turn, now) > 0 ? inTurn(turn, form, version.credential()) : null;
            }
            if (token != null) {
                return new Held(token, version.changed());
            }
            if (now.isAfter(until)) {
                throw new TokenFailure(
                        TokenFailure.Kind.LATER, "another node asks for its token and has no answer yet");
            }
            LockSupport.parkNanos(LOOK_AGAIN_NANOS);
        }
    }

    /**
     * @return null if the next token is to be asked for
     * @throws TokenFailure if it was, came to nothing, and is not to be asked for again yet
     */
    private LiveToken settled(String name, TokenMapper.Row row, Instant now) throws TokenFailure {
        if (row == null) {
            return null;
        }
        LiveToken there = row.token() == null ? null : token(name, row);
        boolean good = there != null && there.isGood(now);
        boolean tried = row.failure() != null && now.isBefore(row.nextTry());
        if (tried && !good) {
            throw new TokenFailure(TokenFailure.Kind.of(row.failure()).orElse(TokenFailure.Kind.LATER), row.reason());
        }
        return good && (tried || !there.isDue(now)) ? there : null;
    }

    /** @return null if the credential was saved anew meanwhile */
    private LiveToken inTurn(TokenMapper.Turn turn, TokenForm form, Credential credential) throws TokenFailure {
        String name = turn.credential();
        boolean asks = false;
        try {
            // Another node may have had its turn since the last look: its token does, and its refresh token is the one
            // that counts.
            TokenMapper.Row row = mapper.find(name, turn.changed());
            LiveToken token = settled(name, row, clock.instant());
            asks = token == null;
            return asks ? ask(turn, form, credential, row) : token;
        } finally {
            if (!asks) {
                mapper.letGo(turn);
            }
        }
    }

    private LiveToken ask(TokenMapper.Turn turn, TokenForm form, Credential credential, TokenMapper.Row row)
            throws TokenFailure {
        String name = turn.credential();
        try {
            String refresh = row == null || row.refresh() == null ? null : opened(name, row.refresh());
            TokenAnswer answer = endpoint.ask(
                    credential.field("tokenUrl"),
                    TokenRequest.of(form, credential, refresh, clock.instant()),
                    TokenRequest.basic(form, credential),
                    secrets(credential, refresh));
            return keep(name, turn.changed(), answer, refresh);
        } catch (TokenFailure e) {
            Instant now = clock.instant();
            mapper.failed(
                    turn,
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

    /** @return null if the credential was saved anew meanwhile: the token is for what it was before */
    private LiveToken keep(String name, Instant of, TokenAnswer answer, String refreshBefore) {
        Instant now = clock.instant();
        String refresh = answer.refresh() == null ? refreshBefore : answer.refresh();
        Instant expires = answer.lives() == null ? null : now.plus(answer.lives());
        TokenMapper.Row row = new TokenMapper.Row(
                name,
                sealed(name, answer.token()),
                expires,
                refresh == null ? null : sealed(name, refresh),
                answer.scope(),
                now,
                null,
                null,
                null);
        try {
            if (mapper.came(row, of) == 0) {
                return null;
            }
        } catch (DataAccessException | TransactionException e) {
            log.warn("Credential {}: its token is used, and kept once the database is back", name);
            threads.execute(() -> keepOnceItCan(row, of));
        }
        return new LiveToken(answer.token(), expires, now, LiveToken.AS_BEARER);
    }

    /** A refresh token that serves once must not be lost: without it the owner would have to consent anew. */
    private void keepOnceItCan(TokenMapper.Row row, Instant of) {
        while (!threads.isShutdown()) {
            LockSupport.parkNanos(LOOK_AGAIN_NANOS);
            try {
                TokenMapper.Row there = mapper.find(row.credential(), of);
                boolean newer = there != null
                        && there.refreshed() != null
                        && there.refreshed().isAfter(row.refreshed());
                if (!newer) {
                    mapper.came(row, of);
                }
                return;
            } catch (DataAccessException | TransactionException e) {
                log.debug("Credential {}: its token waits for the database", row.credential(), e);
            }
        }
        log.warn("Credential {}: its token could not be kept before the end; it is asked for anew", row.credential());
    }

    /**
     * Exchanges the code with which an owner came back.
     *
     * @throws TokenFailure if the authorization server does not take it
     */
    public void consented(String name, String code, String verifier, String redirect) throws TokenFailure {
        CredentialStore.Version version = version(name);
        Credential credential = version.credential();
        TokenAnswer answer = endpoint.ask(
                credential.field("tokenUrl"),
                TokenRequest.code(credential, code, verifier, redirect),
                TokenRequest.basic(TokenForm.GRANT, credential),
                credential.secrets());
        Instant now = clock.instant();
        mapper.forget(name);
        mapper.take(new TokenMapper.Turn(name, version.changed(), node.id(), now), now);
        LiveToken token = keep(name, version.changed(), answer, null);
        if (token == null) {
            throw new TokenFailure(TokenFailure.Kind.BLOCKED, "the credential was saved anew meanwhile");
        }
        known.put(name, new Held(token, version.changed()));
        credentials.touched(name);
    }

    /**
     * A destination refused a token.
     *
     * @return whether a fresh one is worth a try: this one is not new
     */
    public boolean refused(String name, Credential presented) {
        LiveToken token = known(name);
        Instant now = clock.instant();
        if (token == null || !token.credential().fields().equals(presented.fields())) {
            return true; // there is another by now
        }
        if (token.made().plus(FRESH).isAfter(now)) {
            return false;
        }
        known.computeIfPresent(name, (one, held) -> held.token == token ? null : held);
        mapper.refused(name, now.minus(FRESH), now);
        return true;
    }

    /** Seals with the first key of the key file what was sealed with another, so that the other can be taken out of it. */
    public void sealAnew() {
        boolean asRead;
        do {
            asRead = true;
            for (TokenMapper.Row row : mapper.all()) {
                String name = row.credential();
                boolean old = row.token() != null && credentials.isSealedWithOldKey(name, row.token())
                        || row.refresh() != null && credentials.isSealedWithOldKey(name, row.refresh());
                // Another node may have had the next one meanwhile.
                asRead &= !old || mapper.reseal(row, resealed(name, row.token()), resealed(name, row.refresh())) > 0;
            }
        } while (!asRead);
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

package org.holtra.service.access;

import java.time.Duration;
import java.time.InstantSource;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import org.springframework.beans.factory.DisposableBean;
import org.springframework.security.authentication.AuthenticationManager;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.AuthenticationException;
import org.springframework.stereotype.Component;

/**
 * Checks names and passwords. Guessing is slowed down by address, by account and by both together; the hash of a password,
 * which costs a processor a tenth of a second on purpose, is computed for two people at once and no more, on threads that
 * nothing else uses.
 */
@Component
public class SignIn implements DisposableBean {

    /** What came of it. */
    public sealed interface Result {

        /** Name and password belong together. */
        record Person(Authentication authentication) implements Result {}

        /** They do not. */
        record Wrong() implements Result {}

        /** They were not looked at: it was tried too often, or by too many at once. */
        record Later(Duration in) implements Result {}
    }

    private static final int HASHES_AT_ONCE = 2;
    private static final int WAITING = 20;
    private static final Duration WHILE_BUSY = Duration.ofSeconds(2);

    private final AuthenticationManager authentication;
    private final ThreadPoolExecutor hashing = new ThreadPoolExecutor(
            HASHES_AT_ONCE,
            HASHES_AT_ONCE,
            1,
            TimeUnit.MINUTES,
            new ArrayBlockingQueue<>(WAITING),
            Thread.ofPlatform().name("password-", 0).daemon().factory());
    private final Pauses ofBoth;
    private final Pauses ofAddress;
    private final Pauses ofAccount;

    SignIn(AuthenticationManager authentication, InstantSource clock) {
        this.authentication = authentication;
        hashing.allowCoreThreadTimeOut(true);
        ofBoth = new Pauses(clock, 5, Duration.ofMinutes(15));
        // Many people may come by one address.
        ofAddress = new Pauses(clock, 30, Duration.ofMinutes(5));
        // Nobody may be able to keep a person out for long.
        ofAccount = new Pauses(clock, 50, Duration.ofSeconds(30));
    }

    /** @param address where the call came from */
    public Result attempt(String name, String password, String address) {
        Map<Pauses, String> all = Map.of(ofBoth, address + ' ' + name, ofAddress, address, ofAccount, name);
        Duration longest = all.entrySet().stream()
                .map(one -> one.getKey().left(one.getValue()))
                .max(Duration::compareTo)
                .orElseThrow();
        if (longest.isPositive()) {
            return new Result.Later(longest);
        }
        Future<Authentication> hash;
        try {
            hash = hashing.submit(() ->
                    authentication.authenticate(UsernamePasswordAuthenticationToken.unauthenticated(name, password)));
        } catch (RejectedExecutionException e) {
            return new Result.Later(WHILE_BUSY);
        }
        all.forEach(Pauses::tries);
        try {
            Authentication person = hash.get();
            all.forEach(Pauses::forget);
            return new Result.Person(person);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return new Result.Later(WHILE_BUSY);
        } catch (ExecutionException e) {
            if (e.getCause() instanceof AuthenticationException) {
                return new Result.Wrong();
            }
            all.forEach(Pauses::forget);
            if (e.getCause() instanceof RuntimeException failure) {
                throw failure;
            }
            throw new IllegalStateException(e.getCause());
        }
    }

    @Override
    public void destroy() {
        hashing.shutdownNow();
    }
}

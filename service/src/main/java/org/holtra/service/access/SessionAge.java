package org.holtra.service.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import org.springframework.web.filter.OncePerRequestFilter;

/** Ends sessions that are too old, however busy they are: a stolen cookie is not good for ever. */
public final class SessionAge extends OncePerRequestFilter {

    /** A person signs in once a week at least. */
    private static final Duration LONGEST = Duration.ofDays(7);

    private final InstantSource clock;

    SessionAge(InstantSource clock) {
        this.clock = clock;
    }

    /** Whether a session may still be used; false if it has ended. */
    public static boolean isGood(HttpSession session, Instant now) {
        try {
            return Instant.ofEpochMilli(session.getCreationTime()).plus(LONGEST).isAfter(now);
        } catch (IllegalStateException e) {
            return false; // it was ended
        }
    }

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        HttpSession session = request.getSession(false);
        if (session != null && !isGood(session, clock.instant())) {
            session.invalidate();
        }
        chain.doFilter(request, response);
    }
}

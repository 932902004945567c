package org.holtra.service.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.Optional;
import org.springframework.dao.DataAccessException;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.authority.AuthorityUtils;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.filter.OncePerRequestFilter;

/** Lets a program in that shows an API key as a bearer token. No session comes of it. */
final class ApiKeyFilter extends OncePerRequestFilter {

    private static final String SCHEME = "Bearer ";

    private final ApiKeys keys;

    ApiKeyFilter(ApiKeys keys) {
        this.keys = keys;
    }

    static boolean carriesKey(HttpServletRequest request) {
        String header = request.getHeader("Authorization");
        return header != null && header.regionMatches(true, 0, SCHEME, 0, SCHEME.length());
    }

    static String key(HttpServletRequest request) {
        return request.getHeader("Authorization").substring(SCHEME.length()).strip();
    }

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        if (carriesKey(request)) {
            Optional<String> name;
            try {
                name = keys.nameOf(key(request));
            } catch (DataAccessException e) {
                response.setHeader("Retry-After", "5");
                AccessConfiguration.problem(
                        response,
                        503,
                        "Not available now",
                        "The database does not answer, so the key cannot be checked. Inlets take messages on as long as the"
                                + " spool has room.");
                return;
            }
            SecurityContext context = SecurityContextHolder.createEmptyContext();
            name.ifPresent(known -> context.setAuthentication(UsernamePasswordAuthenticationToken.authenticated(
                    "key " + known, null, AuthorityUtils.createAuthorityList("program"))));
            SecurityContextHolder.setContext(context);
        }
        chain.doFilter(request, response);
    }

    /** The answer to a stream is written later, on other threads, and is still the same program's. */
    @Override
    protected boolean shouldNotFilterAsyncDispatch() {
        return false;
    }
}

package org.holtra.service.api;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotBlank;
import java.security.Principal;
import java.util.Map;
import org.springframework.http.HttpStatus;
import org.springframework.security.authentication.AuthenticationManager;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.AuthenticationException;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.HttpSessionSecurityContextRepository;
import org.springframework.security.web.csrf.CsrfToken;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/session")
class SessionController {

    record SignIn(@NotBlank String name, @NotBlank String password) {}

    /** @param name who is signed in, or null */
    record Session(String name) {}

    private final AuthenticationManager authentication;
    private final HttpSessionSecurityContextRepository contexts = new HttpSessionSecurityContextRepository();

    SessionController(AuthenticationManager authentication) {
        this.authentication = authentication;
    }

    /** Who is signed in. Also gives the browser its token against forged requests. */
    @GetMapping
    Session session(Principal principal, CsrfToken token) {
        token.getToken();
        return new Session(principal == null ? null : principal.getName());
    }

    @PostMapping
    Session signIn(
            @Valid @RequestBody SignIn given,
            HttpServletRequest request,
            HttpServletResponse response,
            CsrfToken token) {
        Authentication person;
        try {
            person = authentication.authenticate(
                    UsernamePasswordAuthenticationToken.unauthenticated(given.name(), given.password()));
        } catch (AuthenticationException e) {
            throw new Problem(
                    HttpStatus.UNAUTHORIZED, "Not signed in", "Name and password do not belong together.", Map.of());
        }
        if (request.getSession(false) != null) {
            request.changeSessionId();
        }
        SecurityContext context = SecurityContextHolder.createEmptyContext();
        context.setAuthentication(person);
        contexts.saveContext(context, request, response);
        token.getToken();
        return new Session(person.getName());
    }

    @DeleteMapping
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void signOut(HttpServletRequest request) {
        if (request.getSession(false) != null) {
            request.getSession(false).invalidate();
        }
    }
}

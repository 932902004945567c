package org.holtra.service.api;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotBlank;
import jakarta.validation.constraints.Size;
import java.security.Principal;
import java.time.Duration;
import java.util.Map;
import org.holtra.service.access.SignIn;
import org.holtra.service.access.SignedCsrfTokens;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
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
@RequestMapping("/api/v1/session")
class SessionController {

    private static final int LONGEST = 200;

    record Given(
            @NotBlank @Size(max = LONGEST) String name,
            @NotBlank @Size(max = LONGEST) String password) {}

    /** @param name who is signed in, or null */
    record Session(String name) {}

    private final SignIn signIn;
    private final SignedCsrfTokens tokens;
    private final HttpSessionSecurityContextRepository contexts = new HttpSessionSecurityContextRepository();

    SessionController(SignIn signIn, SignedCsrfTokens tokens) {
        this.signIn = signIn;
        this.tokens = tokens;
    }

    /** Who is signed in. Also gives the browser its token against forged requests. */
    @GetMapping
    Session session(Principal principal, CsrfToken token) {
        token.getToken();
        return new Session(principal == null ? null : principal.getName());
    }

    /** Troubles in with a name and a password; the session is kept in a cookie. */
    @PostMapping
    ResponseEntity<?> signIn(
            @Valid @RequestBody Given given, HttpServletRequest request, HttpServletResponse response) {
        return switch (signIn.attempt(given.name(), given.password(), request.getRemoteAddr())) {
            case SignIn.Result.Person(Authentication person) -> ResponseEntity.ok(signedIn(person, request, response));
            case SignIn.Result.Wrong() ->
                throw new Problem(
                        HttpStatus.UNAUTHORIZED,
                        "Not signed in",
                        "Name and password do not belong together.",
                        Map.of());
            case SignIn.Result.Later(Duration in) -> {
                long seconds = in.plusMillis(999).toSeconds();
                ProblemDetail problem = ProblemDetail.forStatusAndDetail(
                        HttpStatus.TOO_MANY_REQUESTS, "There were too many attempts. Try again in " + seconds + " s.");
                problem.setTitle("Not signed in");
                yield ResponseEntity.status(HttpStatus.TOO_MANY_REQUESTS)
                        .header(HttpHeaders.RETRY_AFTER, Long.toString(seconds))
                        .body(problem);
            }
        };
    }

    private Session signedIn(Authentication person, HttpServletRequest request, HttpServletResponse response) {
        // A new session rather than a new id: its age counts from now.
        if (request.getSession(false) != null) {
            request.getSession(false).invalidate();
        }
        SecurityContext context = SecurityContextHolder.createEmptyContext();
        context.setAuthentication(person);
        contexts.saveContext(context, request, response);
        tokens.renew(request, response);
        return new Session(person.getName());
    }

    /** Ends the session. */
    @DeleteMapping
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void signOut(HttpServletRequest request, HttpServletResponse response) {
        if (request.getSession(false) != null) {
            request.getSession(false).invalidate();
        }
        tokens.renew(request, response);
    }
}

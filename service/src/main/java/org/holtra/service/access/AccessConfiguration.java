package org.holtra.service.access;

import jakarta.servlet.DispatcherType;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.InstantSource;
import org.holtra.service.web.WebProblem;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpMethod;
import org.springframework.security.authentication.AuthenticationManager;
import org.springframework.security.config.annotation.authentication.configuration.AuthenticationConfiguration;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.crypto.bcrypt.BCryptPasswordEncoder;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.authentication.UsernamePasswordAuthenticationFilter;
import org.springframework.security.web.context.SecurityContextHolderFilter;
import org.springframework.security.web.csrf.CsrfFilter;

/** Who may do what: nothing but sign-in and health answers without a session or a key; inlets check their own senders. */
@Configuration
class AccessConfiguration {

    private static final String CONSOLE_POLICY =
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'";

    /** What the API answers is data; should a browser take it for a page, that page may do nothing. */
    private static final String API_POLICY =
            "default-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'";

    @Bean
    @Order(1)
    SecurityFilterChain api(HttpSecurity http, ApiKeys keys, SignedCsrfTokens tokens, InstantSource clock) {
        return http.securityMatcher("/api/**")
                .authorizeHttpRequests(
                        requests -> requests.dispatcherTypeMatchers(DispatcherType.ASYNC, DispatcherType.ERROR)
                                .permitAll()
                                .requestMatchers(HttpMethod.GET, "/api/v1/health", "/api/v1/session")
                                .permitAll()
                                .requestMatchers(HttpMethod.POST, "/api/v1/session")
                                .permitAll()
                                .anyRequest()
                                .authenticated())
                .csrf(csrf -> csrf.spa()
                        .csrfTokenRepository(tokens)
                        .requireCsrfProtectionMatcher(request ->
                                CsrfFilter.DEFAULT_CSRF_MATCHER.matches(request) && !ApiKeyFilter.carriesKey(request)))
                .addFilterBefore(new SessionAge(clock), SecurityContextHolderFilter.class)
                .headers(headers -> headers.contentSecurityPolicy(policy -> policy.policyDirectives(API_POLICY)))
                .addFilterBefore(new ApiKeyFilter(keys), UsernamePasswordAuthenticationFilter.class)
                .exceptionHandling(
                        problems -> problems.authenticationEntryPoint((request, response, e) -> {
                                    response.setHeader("WWW-Authenticate", "Bearer realm=\"holtra\"");
                                    problem(
                                            response,
                                            401,
                                            "Sign in first",
                                            "Nothing here answers without a session or an API key.");
                                })
                                .accessDeniedHandler(
                                        (request, response, e) -> problem(
                                                response,
                                                403,
                                                "Not allowed",
                                                "A browser's session must send the token of its cookie XSRF-TOKEN in the header X-XSRF-TOKEN.")))
                .logout(logout -> logout.disable())
                .requestCache(cache -> cache.disable())
                .build();
    }

    @Bean
    @Order(2)
    SecurityFilterChain console(HttpSecurity http) {
        return http.authorizeHttpRequests(requests -> requests.anyRequest().permitAll())
                .csrf(csrf -> csrf.disable())
                .logout(logout -> logout.disable())
                .requestCache(cache -> cache.disable())
                .sessionManagement(sessions -> sessions.disable())
                .securityContext(context -> context.disable())
                .headers(headers -> headers.contentSecurityPolicy(policy -> policy.policyDirectives(CONSOLE_POLICY))
                        .cacheControl(cache -> cache.disable()))
                .build();
    }

    /** @param strength the logarithm of the rounds; each one more doubles what a guess costs */
    @Bean
    PasswordEncoder passwordEncoder(@Value("${holtra.password-strength:10}") int strength) {
        return new BCryptPasswordEncoder(strength);
    }

    @Bean
    AuthenticationManager authenticationManager(AuthenticationConfiguration configuration) {
        return configuration.getAuthenticationManager();
    }

    static void problem(HttpServletResponse response, int status, String title, String detail) throws IOException {
        WebProblem.write(response, status, title, detail);
    }
}

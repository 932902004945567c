package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.http.HttpServletRequest;
import java.net.URI;
import java.util.List;
import java.util.stream.Collectors;
import org.holtra.service.tokens.Grants;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.util.HtmlUtils;

/** The pages that owners see, who have no account here: what they are asked for, and what came of it. */
@Hidden
@RestController
class GrantPages {

    private final Grants grants;
    private final GrantController.Home home;

    GrantPages(Grants grants, GrantController.Home home) {
        this.grants = grants;
        this.home = home;
    }

    @GetMapping("/grants/{link}")
    ResponseEntity<String> ask(@PathVariable String link) {
        try {
            Grants.Asked asked = grants.asked(link);
            return page(HttpStatus.OK, "Grant access", """
                    <p>Holtra asks to act %s at <b>%s</b>.</p>
                    %s
                    <p>You will be asked there to sign in and to agree, and come back to this site. You can take it back there at
                    any time.</p>
                    <p><a class="act" href="/grants/%s/begin">Continue to %s</a></p>
                    """.formatted(
                            asked.owner().isEmpty() ? "in your name" : "for <b>" + text(asked.owner()) + "</b>",
                            text(host(asked.server())),
                            scopes(asked.scopes()),
                            text(link),
                            text(host(asked.server()))));
        } catch (Grants.Ended e) {
            return page(HttpStatus.GONE, "Nothing to grant", "<p>" + text(e.getMessage()) + "</p>");
        }
    }

    private static String scopes(List<String> scopes) {
        return scopes.isEmpty()
                ? ""
                : "<p>It asks for:</p><ul>"
                        + scopes.stream()
                                .map(scope -> "<li><code>" + text(scope) + "</code></li>")
                                .collect(Collectors.joining())
                        + "</ul>";
    }

    private static String host(String address) {
        String authority = URI.create(address).getAuthority();
        return authority == null ? address : authority;
    }

    @GetMapping("/grants/{link}/begin")
    ResponseEntity<String> begin(@PathVariable String link, HttpServletRequest request) {
        try {
            return ResponseEntity.status(HttpStatus.SEE_OTHER)
                    .location(URI.create(grants.begin(link, home.of(request))))
                    .build();
        } catch (Grants.Ended e) {
            return page(HttpStatus.GONE, "Nothing to grant", "<p>" + text(e.getMessage()) + "</p>");
        }
    }

    @GetMapping(Grants.BACK)
    ResponseEntity<String> back(
            @RequestParam(required = false) String state,
            @RequestParam(required = false) String code,
            @RequestParam(required = false) String error,
            @RequestParam(name = "error_description", required = false) String words,
            HttpServletRequest request) {
        try {
            grants.back(state, code, words == null ? error : words, home.of(request));
            return page(
                    HttpStatus.OK,
                    "Access granted",
                    "<p>Thank you. Nothing is left to do here; you can close this page.</p>");
        } catch (Grants.Ended e) {
            return page(HttpStatus.OK, "No access", "<p>" + text(e.getMessage()) + "</p>");
        }
    }

    private static String text(String text) {
        return HtmlUtils.htmlEscape(text);
    }

    private static ResponseEntity<String> page(HttpStatus status, String title, String content) {
        return ResponseEntity.status(status)
                .contentType(new MediaType(MediaType.TEXT_HTML, java.nio.charset.StandardCharsets.UTF_8))
                .header("Referrer-Policy", "no-referrer")
                .header("Cache-Control", "no-store")
                .body("""
                        <!doctype html>
                        <html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
                        <title>%s · Holtra</title>
                        <style>
                        :root{color-scheme:light dark}
                        body{font:16px/1.55 system-ui,sans-serif;margin:0;background:light-dark(#f5f4ef,#16191b);color:light-dark(#1d2426,#e4e7e6)}
                        main{max-width:34rem;margin:12vh auto 0;padding:2rem;background:light-dark(#fffefa,#1f2427);border:1px solid light-dark(#d9d6cc,#363c40);border-radius:8px}
                        h1{font-size:1.35rem;margin:0 0 1rem}
                        .act{display:inline-block;padding:.5rem 1rem;border-radius:4px;background:#1f5f6b;color:#fff;text-decoration:none;font-weight:600}
                        .act:focus-visible{outline:3px solid light-dark(#7db4be,#9fd0d9);outline-offset:2px}
                        code{font-size:.95em}
                        </style></head>
                        <body><main><h1>%s</h1>%s</main></body></html>
                        """.formatted(title, title, content));
    }
}

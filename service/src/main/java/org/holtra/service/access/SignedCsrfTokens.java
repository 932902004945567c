package org.holtra.service.access;

import jakarta.servlet.http.Cookie;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.Base64;
import java.util.Optional;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.springframework.security.web.csrf.CsrfToken;
import org.springframework.security.web.csrf.CsrfTokenRepository;
import org.springframework.security.web.csrf.DefaultCsrfToken;
import org.springframework.stereotype.Component;
import org.springframework.web.util.WebUtils;

/**
 * Tokens against forged requests, in a cookie that scripts of the console read. Each is signed together with the session it
 * was made for, so that a cookie planted by another host of the same domain is none.
 */
@Component
public class SignedCsrfTokens implements CsrfTokenRepository {

    private static final String COOKIE = "XSRF-TOKEN";
    private static final String HEADER = "X-XSRF-TOKEN";
    private static final String PARAMETER = "_csrf";
    private static final String ALGORITHM = "HmacSHA256";
    private static final int RANDOM_BYTES = 18;
    private static final int KEY_BYTES = 32;

    private final Secrets secrets;
    private final SecretKeySpec key;

    SignedCsrfTokens(Secrets secrets) {
        this.secrets = secrets;
        this.key = new SecretKeySpec(secrets.bytes(KEY_BYTES), ALGORITHM);
    }

    @Override
    public CsrfToken generateToken(HttpServletRequest request) {
        String random = secrets.next(RANDOM_BYTES);
        return new DefaultCsrfToken(HEADER, PARAMETER, random + '.' + signature(random, request));
    }

    @Override
    public void saveToken(CsrfToken token, HttpServletRequest request, HttpServletResponse response) {
        Cookie cookie = new Cookie(COOKIE, token == null ? "" : token.getToken());
        cookie.setPath("/");
        cookie.setSecure(request.isSecure());
        cookie.setAttribute("SameSite", "Strict");
        cookie.setMaxAge(token == null ? 0 : -1);
        response.addCookie(cookie);
    }

    @Override
    public CsrfToken loadToken(HttpServletRequest request) {
        return Optional.ofNullable(WebUtils.getCookie(request, COOKIE))
                .map(Cookie::getValue)
                .filter(value -> isSigned(value, request))
                .map(value -> new DefaultCsrfToken(HEADER, PARAMETER, value))
                .orElse(null);
    }

    /** Gives the browser a token for the session it has now. */
    public void renew(HttpServletRequest request, HttpServletResponse response) {
        saveToken(generateToken(request), request, response);
    }

    private boolean isSigned(String value, HttpServletRequest request) {
        int dot = value.indexOf('.');
        return dot > 0
                && MessageDigest.isEqual(
                        value.substring(dot + 1).getBytes(StandardCharsets.UTF_8),
                        signature(value.substring(0, dot), request).getBytes(StandardCharsets.UTF_8));
    }

    private String signature(String random, HttpServletRequest request) {
        HttpSession session = request.getSession(false);
        String signed = random + ' ' + (session == null ? "" : session.getId());
        try {
            Mac mac = Mac.getInstance(ALGORITHM);
            mac.init(key);
            return Base64.getUrlEncoder()
                    .withoutPadding()
                    .encodeToString(mac.doFinal(signed.getBytes(StandardCharsets.UTF_8)));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has " + ALGORITHM, e);
        }
    }
}

package org.holtra.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletException;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletRequestWrapper;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedReader;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.SocketTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import org.springframework.http.server.PathContainer;
import org.springframework.web.filter.OncePerRequestFilter;
import org.springframework.web.util.ServletRequestPathUtils;
import org.springframework.web.util.pattern.PathPattern;
import org.springframework.web.util.pattern.PathPatternParser;

/**
 * Reads the body of a call to the API before anything is parsed: up to the size that the operation takes, and no slower than
 * the least rate. It stands behind the check of who calls, so that a call without a credential is refused unread. Only calls
 * whose body is there compete for the places among those that run at once.
 */
final class ApiBodies extends OncePerRequestFilter {

    private static final int KIB = 1 << 10;
    private static final int MIB = 1 << 20;

    /** Of operations that take no more than a few fields. */
    private static final int FIELDS = 64 * KIB;

    /** Of operations that take a message or a script. */
    private static final int USUAL = 2 * MIB;

    private static final int WHOLE_SETUPS_AND_TABLES = 8 * MIB;
    private static final int AT_ONCE = 48;
    private static final Duration WAIT = Duration.ofSeconds(10);
    private static final PathPatternParser PATHS = PathPatternParser.defaultInstance;

    private static final PathPattern COMPILES = PATHS.parse("/api/v1/setup/**");
    private static final Map<PathPattern, Integer> LIMITS = limits();

    private final BodyMemory memory;
    private final LeastRate rate;
    private final Semaphore places = new Semaphore(AT_ONCE, true);
    /** Compiling a setup may keep a processor busy for seconds: one at a time leaves the others to messages. */
    private final Semaphore compiling = new Semaphore(1, true);

    ApiBodies(BodyMemory memory, LeastRate rate) {
        this.memory = memory;
        this.rate = rate;
    }

    private static Map<PathPattern, Integer> limits() {
        Map<String, Integer> limits = new LinkedHashMap<>();
        limits.put("/api/v1/session", 4 * KIB);
        limits.put("/api/v1/credentials/**", FIELDS);
        limits.put("/api/v1/keys/**", FIELDS);
        limits.put("/api/v1/alarms/**", FIELDS);
        limits.put("/api/v1/replays/**", FIELDS);
        limits.put("/api/v1/setup/**", WHOLE_SETUPS_AND_TABLES);
        limits.put("/api/v1/devices/table", WHOLE_SETUPS_AND_TABLES);
        limits.put("/api/v1/lookups/**", WHOLE_SETUPS_AND_TABLES);
        Map<PathPattern, Integer> parsed = new LinkedHashMap<>();
        limits.forEach((path, limit) -> parsed.put(PATHS.parse(path), limit));
        return parsed;
    }

    @Override
    protected boolean shouldNotFilter(HttpServletRequest request) {
        return !request.getRequestURI().startsWith("/api/");
    }

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        Body body = new Body(memory);
        try {
            if (!come(request, response, body)) {
                return;
            }
            if (!places.tryAcquire(WAIT.toSeconds(), TimeUnit.SECONDS)) {
                response.setHeader("Retry-After", "5");
                WebProblem.write(
                        response,
                        503,
                        "Too many calls at once",
                        "The API runs " + AT_ONCE + " calls at a time, and none of them ended for " + WAIT.toSeconds()
                                + " s. Call again.");
                return;
            }
            try {
                chain.doFilter(new Read(request, body.bytes()), response);
            } finally {
                places.release();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("interrupted", e);
        } finally {
            body.forget();
        }
    }

    /** Reads the body; if it cannot be had, the answer says why. */
    private boolean come(HttpServletRequest request, HttpServletResponse response, Body body) throws IOException {
        int limit = limit(request);
        if (request.getContentLengthLong() > limit) {
            tooLarge(response, limit);
            return false;
        }
        long began = System.nanoTime();
        byte[] some = new byte[8 * KIB];
        InputStream in = request.getInputStream();
        while (true) {
            int count;
            try {
                count = in.read(some);
            } catch (IOException e) {
                if (!(e instanceof SocketTimeoutException || e.getCause() instanceof SocketTimeoutException)) {
                    throw e;
                }
                // The server, which knows of the failed read, discards what is written here and asks the error page.
                request.setAttribute(WebProblem.DETAIL, tooSlow());
                WebProblem.write(response, 408, "Request Timeout", tooSlow());
                return false;
            }
            if (count < 0) {
                return true;
            }
            if (!body.add(some, count)) {
                response.setHeader("Retry-After", "5");
                WebProblem.write(
                        response,
                        503,
                        "Too much at once",
                        "The bodies of all calls under way take the memory there is for them. Call again.");
                return false;
            }
            if (body.size() > limit) {
                tooLarge(response, limit);
                return false;
            }
            if (rate.isMissed(body.size(), Duration.ofNanos(System.nanoTime() - began))) {
                WebProblem.write(response, 408, "Request Timeout", tooSlow());
                return false;
            }
        }
    }

    private static PathContainer path(HttpServletRequest request) {
        return ServletRequestPathUtils.hasParsedRequestPath(request)
                ? ServletRequestPathUtils.getParsedRequestPath(request).pathWithinApplication()
                : ServletRequestPathUtils.parseAndCache(request).pathWithinApplication();
    }

    private static int limit(HttpServletRequest request) {
        PathContainer path = path(request);
        return LIMITS.entrySet().stream()
                .filter(limit -> limit.getKey().matches(path))
                .map(Map.Entry::getValue)
                .findFirst()
                .orElse(USUAL);
    }

    private static void tooLarge(HttpServletResponse response, int limit) throws IOException {
        WebProblem.write(response, 413, "The body is too large", "This call takes up to " + limit + " bytes.");
    }

    private String tooSlow() {
        return "The body came too slowly. " + rate.wanted();
    }

    /** What has come, and its share of the memory. */
    private static final class Body {

        private final BodyMemory memory;
        private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();

        Body(BodyMemory memory) {
            this.memory = memory;
        }

        boolean add(byte[] some, int count) {
            if (!memory.take(count)) {
                return false;
            }
            bytes.write(some, 0, count);
            return true;
        }

        int size() {
            return bytes.size();
        }

        byte[] bytes() {
            return bytes.toByteArray();
        }

        void forget() {
            memory.giveBack(bytes.size());
        }
    }

    /** A request whose body was read. */
    private static final class Read extends HttpServletRequestWrapper {

        private final byte[] body;

        Read(HttpServletRequest request, byte[] body) {
            super(request);
            this.body = body;
        }

        @Override
        public ServletInputStream getInputStream() {
            ByteArrayInputStream in = new ByteArrayInputStream(body);
            return new ServletInputStream() {
                @Override
                public int read() {
                    return in.read();
                }

                @Override
                public int read(byte[] into, int from, int count) {
                    return in.read(into, from, count);
                }

                @Override
                public boolean isFinished() {
                    return in.available() == 0;
                }

                @Override
                public boolean isReady() {
                    return true;
                }

                @Override
                public void setReadListener(ReadListener listener) {
                    throw new IllegalStateException("the body is read already");
                }
            };
        }

        @Override
        public BufferedReader getReader() {
            return new BufferedReader(new InputStreamReader(getInputStream(), StandardCharsets.UTF_8));
        }
    }
}

package org.holtra.service.api;

import jakarta.servlet.http.HttpServletRequest;
import org.holtra.service.access.StillAllowed;
import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

@RestController
class LiveController {

    private final Live live;
    private final StillAllowed allowed;

    LiveController(Live live, StillAllowed allowed) {
        this.live = live;
        this.allowed = allowed;
    }

    /** Messages as they are kept (event {@code message}) and deliveries as they are settled (event {@code delivery}). */
    @GetMapping(value = "/api/v1/live", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter live(HttpServletRequest request) {
        return live.watch(allowed.of(request));
    }
}

package org.holtra.service.api;

import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

@RestController
class LiveController {

    private final Live live;

    LiveController(Live live) {
        this.live = live;
    }

    /** Messages as they are kept (event {@code message}) and deliveries as they are settled (event {@code delivery}). */
    @GetMapping(value = "/api/live", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter live() {
        return live.watch();
    }
}

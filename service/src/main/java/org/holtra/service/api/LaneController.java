package org.holtra.service.api;

import java.util.List;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;

@RestController
class LaneController {

    private final Overviews overviews;

    LaneController(Overviews overviews) {
        this.overviews = overviews;
    }

    /** All lanes, the most troubled first. */
    @GetMapping("/api/v1/lanes")
    List<Overview.LaneRow> list() {
        return overviews.now().lanes();
    }
}

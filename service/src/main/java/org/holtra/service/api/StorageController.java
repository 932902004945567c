package org.holtra.service.api;

import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import org.holtra.service.retention.Retention;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What is kept, for how long, and what it takes. */
@RestController
@RequestMapping("/api/v1/storage")
class StorageController {

    /** @param balance of days whose messages are gone */
    record Storage(List<Retention.Kept> kept, Map<LocalDate, Map<String, Long>> balances) {}

    private final Retention retention;

    StorageController(Retention retention) {
        this.retention = retention;
    }

    /** What is kept, for how many days, and what it takes on disk. */
    @GetMapping
    Storage storage() {
        return new Storage(retention.kept(), retention.balances());
    }
}

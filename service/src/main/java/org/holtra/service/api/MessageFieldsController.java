package org.holtra.service.api;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.Fields;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** The fields of several messages at once, for lists of them. */
@RestController
@RequestMapping("/api/v1/messages/fields")
class MessageFieldsController {

    private static final int MOST_MESSAGES = 200;
    private static final int MOST_FIELDS = 12;

    record Wanted(List<String> ids) {}

    /** @param fields the first of them; empty if the message cannot be read by the active setup */
    record Read(String id, List<Value> fields) {}

    /** @param unit a UCUM code, or null */
    record Value(String name, Object value, String unit) {}

    private final Journal journal;
    private final Readings readings;
    private final Setups setups;

    MessageFieldsController(Journal journal, Readings readings, Setups setups) {
        this.journal = journal;
        this.readings = readings.forHistory();
        this.setups = setups;
    }

    /** The fields of up to 200 messages, as the active setup reads them. Messages that are not there are left out. */
    @PostMapping
    List<Read> read(@RequestBody Wanted wanted) {
        List<String> ids = wanted.ids == null ? List.of() : wanted.ids;
        if (ids.size() > MOST_MESSAGES) {
            throw Problem.badRequest("ids", "At most " + MOST_MESSAGES + " messages are read at once.");
        }
        Setup setup = setups.current();
        return journal
                .find(ids.stream().map(id -> MessageController.id("ids", id)).toList())
                .stream()
                .map(stored -> new Read(stored.id().toString(), fields(stored, setup)))
                .toList();
    }

    private List<Value> fields(StoredMessage stored, Setup setup) {
        try {
            Scope scope = readings.scope(stored, setup, null);
            List<Value> values = new ArrayList<>();
            for (Map.Entry<String, Object> field : Fields.flat(scope.data()).entrySet()) {
                if (values.size() < MOST_FIELDS) {
                    values.add(new Value(
                            field.getKey(),
                            Plain.of(field.getValue()),
                            scope.units().get(field.getKey())));
                }
            }
            return values;
        } catch (UnreadableContent e) {
            return List.of(); // the list shows its bytes and its state instead
        }
    }
}

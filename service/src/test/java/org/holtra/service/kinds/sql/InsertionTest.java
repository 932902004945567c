package org.holtra.service.kinds.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

class InsertionTest {

    private static SqlTarget target(String... updates) {
        return new SqlTarget(
                "h",
                5432,
                "d",
                "field.readings",
                "message_key",
                List.of(updates),
                false,
                null,
                Duration.ofSeconds(1),
                1);
    }

    private static Insertion of(String body) {
        return Insertion.of(body.getBytes(StandardCharsets.UTF_8), "message_key", "k1");
    }

    @Test
    void valuesAreTextsThatTheDatabaseReads() {
        Insertion row = of(
                "{\"n\":5.0,\"x\":2.5,\"ok\":true,\"note\":null,\"more\":{\"a\":[1]},\"at\":\"2026-05-01T10:00:00Z\"}");

        assertThat(row.values())
                .containsEntry("n", "5")
                .containsEntry("x", "2.5")
                .containsEntry("ok", "true")
                .containsEntry("note", null)
                .containsEntry("more", "{\"a\":[1]}")
                .containsEntry("at", "2026-05-01T10:00:00Z")
                .containsEntry("message_key", "k1");
    }

    @Test
    void rowsAreInsertedOnceByTheirKey() {
        assertThat(of("{\"n\":1}").statement(target(), Map.of("n", "integer", "message_key", "text")))
                .isEqualTo("insert into \"field\".\"readings\" (\"n\", \"message_key\") values (?::integer, ?::text)"
                        + " on conflict (\"message_key\") do nothing");
    }

    @Test
    void aRowThatIsThereIsUpdatedByTheColumnsThatTellItFromOthers() {
        assertThat(of("{\"device\":\"a\",\"n\":1}").statement(target("device"), Map.of()))
                .endsWith(" on conflict (\"device\") do update set \"n\" = excluded.\"n\","
                        + " \"message_key\" = excluded.\"message_key\"");
        assertThat(of("{\"device\":\"a\"}").without("message_key").statement(target("device"), Map.of()))
                .endsWith(" on conflict (\"device\") do nothing");
    }

    @Test
    void aNameThatWouldEndTheStatementIsQuoted() {
        assertThat(of("{\"a\\\"; drop table x\":1}").statement(target(), Map.of()))
                .contains("\"a\"\"; drop table x\"");
    }

    @Test
    void whatIsNoObjectIsRefusedWithWhatTheShapeHasToMake() {
        assertThatThrownBy(() -> of("[1]")).hasMessageContaining("has to make an object");
        assertThatThrownBy(() -> of("{}")).hasMessageContaining("has to make an object");
        assertThatThrownBy(() -> of("n=1")).hasMessageContaining("makes no JSON");
        assertThatThrownBy(() -> Insertion.of(null, "k", "1")).hasMessageContaining("has to make an object");
    }
}

package org.holtra.service.setups;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.boot.test.system.CapturedOutput;
import org.springframework.boot.test.system.OutputCaptureExtension;

@ExtendWith(OutputCaptureExtension.class)
class ForeignDatabaseTest {

    @Test
    void aDatabaseOfAVersionThatCannotBeUpgradedIsToldWithWhatToDo(CapturedOutput output) {
        TestDatabase database = TestDatabase.fresh();
        TestService.start(database).close();
        database.execute("update flyway_schema_history set checksum = 1 where version = '1'");

        assertThatThrownBy(() -> TestService.start(database)).isInstanceOf(RuntimeException.class);

        assertThat(output)
                .contains("were made by a version of Holtra that this one cannot upgrade")
                .contains("start this one on an empty database");
    }

    @Test
    void aDatabaseOfALaterVersionIsUsedAsItIs() {
        TestDatabase database = TestDatabase.fresh();
        TestService first = TestService.start(database);
        first.close();
        database.execute("insert into flyway_schema_history (installed_rank, version, description, type, script,"
                + " checksum, installed_by, execution_time, success)"
                + " values (99, '99', 'later', 'SQL', 'V99__later.sql', 7, 'holtra', 1, true)");

        try (TestService service = first.again()) {
            assertThat(service.client()
                            .get("/api/v1/status")
                            .path("databaseAway")
                            .asBoolean())
                    .isFalse();
        }
    }
}

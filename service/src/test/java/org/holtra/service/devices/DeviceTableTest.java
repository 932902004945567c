package org.holtra.service.devices;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class DeviceTableTest {

    private static final Device.Knowledge KNOWN = new Device.Knowledge(
            "probe",
            Map.of("site", "Ashcombe", "row", 4),
            Map.of("deep", new Device.Point("P-1", Map.of("centimetres", 60))),
            "Europe/Berlin",
            Instant.parse("2026-03-01T00:00:00Z"),
            "3h",
            List.of());

    private final DeviceRegistry registry = TestService.shared().bean(DeviceRegistry.class);

    @BeforeEach
    void know() {
        registry.change("table-1", KNOWN, "test");
    }

    private DeviceTable.Table read(String csv) {
        return DeviceTable.read(csv, registry);
    }

    private Device.Knowledge only(String csv) {
        DeviceTable.Table table = read(csv);
        assertThat(table.misfits()).isEmpty();
        assertThat(table.rows()).hasSize(1);
        return table.rows().getFirst().knowledge();
    }

    @Test
    void whatIsWrittenReadsBackTheSame() {
        String csv = DeviceTable.write(registry.all().stream()
                .filter(device -> device.key().equals("table-1"))
                .toList());

        Device.Knowledge back = only(csv);

        assertThat(back.model()).isEqualTo("probe");
        assertThat(back.zone()).isEqualTo("Europe/Berlin");
        assertThat(back.installed()).isEqualTo(KNOWN.installed());
        assertThat(back.silentAfter()).isEqualTo("3h");
        assertThat(back.facts().get("site")).isEqualTo("Ashcombe");
        assertThat(back.facts().get("row")).hasToString("4");
        assertThat(back.points().get("deep").reference()).isEqualTo("P-1");
        assertThat(back.points().get("deep").facts()).hasToString("{centimetres=60}");
    }

    @Test
    void aColumnThatIsNotThereLeavesThingsAndAnEmptyCellTakesThemAway() {
        assertThat(only("key;fact:row\ntable-1;5\n").facts())
                .containsEntry("site", "Ashcombe")
                .containsEntry("row", 5L);
        assertThat(only("key,fact:site,zone\ntable-1,,\n").facts())
                .doesNotContainKey("site")
                .containsKey("row");
        assertThat(only("key,zone\ntable-1,\n").zone()).isNull();
        assertThat(only("key,point:deep,point:deep:centimetres\ntable-1,,\n").points())
                .isEmpty();
    }

    @ParameterizedTest
    @CsvSource({
        "7, 7, Long",
        "007, 007, String",
        "4.50, 4.5, Double",
        "true, true, Boolean",
        "-3, -3, Long",
        "1e5, 1e5, String"
    })
    void cellsKeepTheirType(String cell, String value, String type) {
        Object fact = only("key,fact:x\ntable-2," + cell + "\n").facts().get("x");

        assertThat(fact).hasToString(value);
        assertThat(fact.getClass().getSimpleName()).isEqualTo(type);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            name\\nx                              | 1 | key         | the first line names the columns
            key,colour\\na,red                    | 1 | colour      | no column of this name is known
            key\\na\\na                           | 3 | key         | `a` stands in the table twice
            key,fact:x\\n,1                       | 2 | key         | a device's key is a text of 1 to 200 characters
            key,installed\\na,yesterday                | 2 | installed        | `yesterday` is no date such as 2026-03-01
            key,zone\\na,Moon/Sea                 | 2 | zone        | there is no time zone `Moon/Sea`
            key,silentAfter\\na,soon              | 2 | silentAfter | `soon` is no span
            """)
    void saysWhatIsWrongAtItsLineAndColumn(String csv, int line, String column, String what) {
        DeviceTable.Misfit misfit = read(csv.replace("\\n", "\n")).misfits().getFirst();

        assertThat(misfit.line()).isEqualTo(line);
        assertThat(misfit.column()).isEqualTo(column);
        assertThat(misfit.what()).startsWith(what);
    }

    @Test
    void anEmptyTableIsNone() {
        assertThat(read("").misfits()).extracting(DeviceTable.Misfit::what).containsExactly("the table is empty");
    }

    @Test
    void aDateIsTheStartOfItsDay() {
        assertThat(only("key,installed\ntable-3,2026-03-01\n").installed()).isEqualTo("2026-03-01T00:00:00Z");
    }
}

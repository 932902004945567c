package org.holtra.service.api;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonProperty;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.LookupTable;
import org.holtra.core.expression.Plain;
import org.holtra.service.devices.SpreadsheetCell;
import org.holtra.service.setups.SetupParts;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.MappingIterator;
import tools.jackson.dataformat.csv.CsvMapper;
import tools.jackson.dataformat.csv.CsvReadFeature;
import tools.jackson.dataformat.csv.CsvSchema;
import tools.jackson.dataformat.csv.CsvWriteFeature;

/** The lookups of the setup. */
@RestController
@RequestMapping("/api/v1/lookups")
class LookupController {

    private static final String CSV = "text/csv;charset=UTF-8";
    private static final CsvMapper MAPPER = CsvMapper.builder()
            .enable(CsvReadFeature.WRAP_AS_ARRAY, CsvReadFeature.TRIM_SPACES, CsvReadFeature.SKIP_EMPTY_LINES)
            .enable(CsvWriteFeature.STRICT_CHECK_FOR_QUOTING)
            .build();

    private final Setups setups;
    private final SetupParts parts;

    LookupController(Setups setups, SetupParts parts) {
        this.setups = setups;
        this.parts = parts;
    }

    /** In the order of the setup file, their rows too. */
    @GetMapping
    List<LookupTable> list() {
        return setups.current().tables().values().stream().map(this::ordered).toList();
    }

    private LookupTable ordered(LookupTable table) {
        Map<String, Object> content = parts.part("lookups", table.name()).content();
        Map<String, Object> rows = new LinkedHashMap<>();
        if (content != null && content.get("rows") instanceof Map<?, ?> written) {
            written.forEach((key, value) -> rows.put(key.toString(), value));
        }
        return new LookupTable(table.name(), rows, table.otherwise());
    }

    /** The rows of a lookup as CSV, a key and a value a line. */
    @GetMapping(value = "/{name}/csv", produces = CSV)
    String csv(@PathVariable String name) {
        LookupTable table = setups.current().tables().get(name);
        if (table == null) {
            throw Problem.notFound("table", name);
        }
        List<List<Object>> lines = new ArrayList<>();
        lines.add(List.of("key", "value"));
        ordered(table)
                .rows()
                .forEach((key, value) ->
                        lines.add(List.of(SpreadsheetCell.of(key), SpreadsheetCell.of(Plain.text(value)))));
        return MAPPER.writer(CsvSchema.emptySchema().withLineSeparator("\r\n")).writeValueAsString(lines);
    }

    /**
     * A table as the setup file has it.
     *
     * @param otherwise for keys it does not have; left out if there is none
     */
    record TableContent(
            @JsonProperty("default") @JsonInclude(JsonInclude.Include.NON_NULL)
            Object otherwise,

            Map<String, Object> rows) {}

    /**
     * What a table would be with the rows of a CSV file: a line a row, key and value, with or without a first line that
     * names them. Adopts nothing.
     */
    @PostMapping(value = "/{name}/csv", consumes = "text/csv")
    TableContent fromCsv(@PathVariable String name, @RequestBody String csv) {
        Map<String, Object> rows = new LinkedHashMap<>();
        int line = 0;
        try (MappingIterator<String[]> read = MAPPER.readerFor(String[].class).readValues(csv)) {
            while (read.hasNext()) {
                String[] cells = read.next();
                line++;
                if (cells.length != 2) {
                    throw Problem.badRequest(
                            "csv", "Line " + line + " has " + cells.length + " values; a key and a value are wanted.");
                }
                if (line == 1 && cells[0].equalsIgnoreCase("key")) {
                    continue;
                }
                if (rows.put(SpreadsheetCell.text(cells[0]), SpreadsheetCell.text(cells[1])) != null) {
                    throw Problem.badRequest("csv", "Line " + line + ": `" + cells[0] + "` stands there twice.");
                }
            }
        } catch (JacksonException e) {
            throw Problem.badRequest("csv", "This is not CSV: " + e.getOriginalMessage() + ".");
        }
        LookupTable there = setups.current().tables().get(name);
        return new TableContent(there == null ? null : there.otherwise(), rows);
    }
}

package org.holtra.service.journal.sql;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.service.journal.entry.AttemptRow;

/** Many attempts, column by column. */
public record AttemptColumns(
        UUID[] delivery,
        UUID[] message,
        Instant[] received,
        String[] lane,
        String[] outlet,
        Integer[] number,
        Instant[] at,
        Long[] micros,
        String[] verdict,
        String[] reason,
        String[] code,
        Instant[] nextTry,
        Integer[] setupRevision,
        byte[][] request,
        byte[][] requestBody,
        byte[][] answer,
        String[] point,
        Boolean[] trial,
        String[] replay) {

    public static AttemptColumns of(List<AttemptRow> rows) {
        return new AttemptColumns(
                column(rows, AttemptRow::delivery, UUID[]::new),
                column(rows, AttemptRow::message, UUID[]::new),
                column(rows, AttemptRow::received, Instant[]::new),
                column(rows, AttemptRow::lane, String[]::new),
                column(rows, AttemptRow::outlet, String[]::new),
                column(rows, AttemptRow::number, Integer[]::new),
                column(rows, AttemptRow::at, Instant[]::new),
                column(rows, AttemptRow::micros, Long[]::new),
                column(rows, AttemptRow::verdict, String[]::new),
                column(rows, AttemptRow::reason, String[]::new),
                column(rows, AttemptRow::code, String[]::new),
                column(rows, AttemptRow::nextTry, Instant[]::new),
                column(rows, AttemptRow::setupRevision, Integer[]::new),
                column(rows, AttemptRow::request, byte[][]::new),
                column(rows, AttemptRow::requestBody, byte[][]::new),
                column(rows, AttemptRow::answer, byte[][]::new),
                column(rows, AttemptRow::point, String[]::new),
                column(rows, AttemptRow::trial, Boolean[]::new),
                column(rows, AttemptRow::replay, String[]::new));
    }
}

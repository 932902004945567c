package org.holtra.service.introductions;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;

/** Many introductions, column by column. */
record IntroductionColumns(
        String[] outlet,
        String[] device,
        String[] state,
        String[] step,
        String[] name,
        String[] thereId,
        String[] kept,
        byte[][] secret,
        Boolean[] existed,
        Boolean[] creating,
        Boolean[] anew,
        Long[] version,
        String[] why,
        String[] reason,
        Instant[] since,
        Instant[] nextAt,
        Integer[] attempts,
        Integer[] revision) {

    static IntroductionColumns of(List<IntroductionMapper.Row> rows) {
        return new IntroductionColumns(
                column(rows, IntroductionMapper.Row::outlet, String[]::new),
                column(rows, IntroductionMapper.Row::device, String[]::new),
                column(rows, IntroductionMapper.Row::state, String[]::new),
                column(rows, IntroductionMapper.Row::step, String[]::new),
                column(rows, IntroductionMapper.Row::name, String[]::new),
                column(rows, IntroductionMapper.Row::thereId, String[]::new),
                column(rows, IntroductionMapper.Row::kept, String[]::new),
                column(rows, IntroductionMapper.Row::secret, byte[][]::new),
                column(rows, IntroductionMapper.Row::existed, Boolean[]::new),
                column(rows, IntroductionMapper.Row::creating, Boolean[]::new),
                column(rows, IntroductionMapper.Row::anew, Boolean[]::new),
                column(rows, IntroductionMapper.Row::version, Long[]::new),
                column(rows, IntroductionMapper.Row::why, String[]::new),
                column(rows, IntroductionMapper.Row::reason, String[]::new),
                column(rows, IntroductionMapper.Row::since, Instant[]::new),
                column(rows, IntroductionMapper.Row::nextAt, Instant[]::new),
                column(rows, IntroductionMapper.Row::attempts, Integer[]::new),
                column(rows, IntroductionMapper.Row::revision, Integer[]::new));
    }
}

package org.holtra.service.spool;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.junit.jupiter.api.Test;

class HeapUseTest {

    @Test
    void whatIsKeptAfterACollectionIsTold() {
        byte[][] kept = new byte[64][];
        for (int i = 0; i < kept.length; i++) {
            kept[i] = new byte[1 << 20];
        }
        System.gc();

        int full = new HeapUse().percent();

        assertThat(kept.length).isEqualTo(64);
        assertThat(full).isBetween(1, 100);
    }

    @Test
    void aHeapWithoutSuchAPoolTellsNothing() {
        assertThat(new HeapUse(List.of()).percent()).isZero();
    }
}

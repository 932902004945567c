package org.holtra.service.faults;

import org.junit.jupiter.api.Tag;

/** Of a node by itself, which sends from memory what stands in an order. */
@Tag("long")
class OneNodeFaultTest extends Faults {

    @Override
    int nodes() {
        return 1;
    }
}

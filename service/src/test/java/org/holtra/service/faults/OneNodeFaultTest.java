package org.holtra.service.faults;

/** Of a node by itself, which sends from memory what stands in an order. */
class OneNodeFaultTest extends Faults {

    @Override
    int nodes() {
        return 1;
    }
}

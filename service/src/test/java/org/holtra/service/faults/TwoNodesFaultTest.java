package org.holtra.service.faults;

/** Of two nodes on one database. */
class TwoNodesFaultTest extends Faults {

    @Override
    int nodes() {
        return 2;
    }
}

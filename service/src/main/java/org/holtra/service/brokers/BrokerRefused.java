package org.holtra.service.brokers;

/** A broker that could not be looked at. */
public final class BrokerRefused extends Exception {

    private static final long serialVersionUID = 1L;
    private final transient BrokerFailure failure;

    public BrokerRefused(BrokerFailure failure) {
        super(failure.words());
        this.failure = failure;
    }

    public BrokerFailure failure() {
        return failure;
    }
}

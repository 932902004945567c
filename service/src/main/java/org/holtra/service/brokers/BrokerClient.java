package org.holtra.service.brokers;

import java.util.List;
import java.util.concurrent.CompletableFuture;

/**
 * One connection to a broker, in either version of the protocol. It connects once; a new connection is a new client. Futures end
 * with a failure where the connection breaks; {@link BrokerFailure} tells what it means.
 */
public interface BrokerClient {

    /** What comes over a connection. Called by the client's own threads; must return soon. */
    interface Listener {

        void arrived(Incoming message);

        /** The connection, once made, is gone; by whatever cause but {@link #disconnect}. */
        void lost(Throwable cause);
    }

    /** Completed with whether the broker still knew this client and its subscriptions. */
    CompletableFuture<Boolean> connect();

    /** Completed with the broker's reason code for each filter, in their order; from 0x80 on it is refused. */
    CompletableFuture<List<Integer>> subscribe(List<String> filters, int qos);

    CompletableFuture<Void> unsubscribe(List<String> filters);

    /** Completed with the broker's reason code; 0 where it gives none, or is not asked (QoS 0). */
    CompletableFuture<Integer> publish(Outgoing message);

    /** @param forget whether the broker is to forget this client, as far as the protocol's version can say so */
    CompletableFuture<Void> disconnect(boolean forget);
}

package org.holtra.service.web;

import java.net.SocketTimeoutException;
import java.time.Duration;
import java.util.concurrent.Executors;
import org.apache.coyote.AbstractProcessor;
import org.apache.coyote.Constants;
import org.apache.coyote.Processor;
import org.apache.coyote.http11.Http11NioProtocol;
import org.apache.tomcat.util.net.NioChannel;
import org.apache.tomcat.util.net.SocketEvent;
import org.apache.tomcat.util.net.SocketWrapperBase;

/**
 * HTTP/1.1 as the web server speaks it, with a bound at either end of a request. Headers must be complete within a time: the
 * server itself bounds only the time between two bytes of them, so that a byte every few seconds holds a connection for as
 * long as its sender likes. And who is refused before its body has come may send the rest of it, up to a {@link Linger}.
 */
public final class BoundedHttp extends Http11NioProtocol {

    /** A request that waits for its body costs a virtual thread, and keeps no other from being served. */
    public BoundedHttp() {
        setExecutor(Executors.newThreadPerTaskExecutor(
                Thread.ofVirtual().name("http-", 0).factory()));
    }

    @Override
    protected Processor createProcessor() {
        return new LingeringProcessor(this, getAdapter(), Linger.USUAL);
    }

    /** Closes connections whose request began longer ago than this and has no complete headers yet; says how many. */
    int close(Duration limit) {
        int closed = 0;
        for (SocketWrapperBase<NioChannel> connection : getEndpoint().getConnections()) {
            if (connection.getCurrentProcessor() instanceof AbstractProcessor processor && isLate(processor, limit)) {
                connection.setError(new SocketTimeoutException("the headers did not come"));
                if (!getEndpoint().processSocket(connection, SocketEvent.ERROR, true)) {
                    connection.close();
                }
                closed++;
            }
        }
        return closed;
    }

    /** Between two pieces of its headers a request is at the stage of one that has ended; one that is answered later too. */
    private static boolean isLate(AbstractProcessor processor, Duration limit) {
        long began = processor.getRequest().getStartTimeNanos();
        int stage = processor.getRequest().getRequestProcessor().getStage();
        return (stage == Constants.STAGE_PARSE || stage == Constants.STAGE_ENDED && !processor.isAsync())
                && began > 0
                && System.nanoTime() - began > limit.toNanos();
    }
}

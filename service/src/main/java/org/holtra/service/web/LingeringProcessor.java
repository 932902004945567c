package org.holtra.service.web;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.time.Duration;
import org.apache.coyote.Adapter;
import org.apache.coyote.Request;
import org.apache.coyote.Response;
import org.apache.coyote.http11.Http11Processor;
import org.apache.tomcat.util.net.AbstractEndpoint.Handler.SocketState;
import org.apache.tomcat.util.net.NioChannel;
import org.apache.tomcat.util.net.SecureNioChannel;
import org.apache.tomcat.util.net.SocketEvent;
import org.apache.tomcat.util.net.SocketWrapperBase;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Closes a connection whose last request was answered before its body had come in two steps, as RFC 9112, section 9.6, asks:
 * first its own side, then, once the sender has sent the rest or time is up, all of it. Closed at once, what still comes would
 * reset the connection, and the sender see a broken one in place of the answer.
 */
final class LingeringProcessor extends Http11Processor {

    private static final Logger log = LoggerFactory.getLogger(LingeringProcessor.class);

    private static final int PIECE = 4_096;

    private final Linger linger;
    private final Watched watched;

    LingeringProcessor(BoundedHttp protocol, Adapter adapter, Linger linger) {
        this(protocol, new Watched(adapter), linger);
    }

    private LingeringProcessor(BoundedHttp protocol, Watched watched, Linger linger) {
        super(protocol, watched);
        this.watched = watched;
        this.linger = linger;
    }

    @Override
    public SocketState process(SocketWrapperBase<?> connection, SocketEvent event) throws IOException {
        watched.unread = false;
        SocketState state = super.process(connection, event);
        if (state == SocketState.CLOSED && watched.unread && connection.getError() == null) {
            try {
                closeOwnSide(connection);
                readTheRest(connection);
            } catch (IOException e) {
                log.debug("A refused sender was gone before all of its body had come", e);
            }
        }
        return state;
    }

    /** Under TLS that is left to the sender, who was told that the connection closes. */
    private static void closeOwnSide(SocketWrapperBase<?> connection) throws IOException {
        if (connection.getSocket() instanceof NioChannel channel && !(channel instanceof SecureNioChannel)) {
            channel.getIOChannel().shutdownOutput();
        }
    }

    private void readTheRest(SocketWrapperBase<?> connection) throws IOException {
        connection.setReadTimeout(linger.pause().toMillis());
        ByteBuffer some = ByteBuffer.allocate(PIECE);
        long began = System.nanoTime();
        long come = 0;
        while (linger.goesOn(come, Duration.ofNanos(System.nanoTime() - began))) {
            int count = connection.read(true, some.clear());
            if (count <= 0) {
                return;
            }
            come += count;
        }
    }

    /** Notes whether a request was left with a body that had not come: the server forgets it with the request. */
    private static final class Watched implements Adapter {

        private final Adapter adapter;
        private boolean unread;

        Watched(Adapter adapter) {
            this.adapter = adapter;
        }

        @Override
        public void service(Request request, Response response) throws Exception {
            adapter.service(request, response);
            unread = !request.isFinished();
        }

        @Override
        public boolean asyncDispatch(Request request, Response response, SocketEvent event) throws Exception {
            boolean goesOn = adapter.asyncDispatch(request, response, event);
            unread = !request.isFinished();
            return goesOn;
        }

        @Override
        public boolean prepare(Request request, Response response) throws Exception {
            return adapter.prepare(request, response);
        }

        @Override
        public void log(Request request, Response response, long nanos) {
            adapter.log(request, response, nanos);
        }

        @Override
        public void checkRecycled(Request request, Response response) {
            adapter.checkRecycled(request, response);
        }

        @Override
        public String getDomain() {
            return adapter.getDomain();
        }
    }
}

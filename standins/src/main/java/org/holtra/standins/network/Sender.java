package org.holtra.standins.network;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Function;

/**
 * Posts bodies to one inlet, one after the other, and keeps each until it is acknowledged: after anything but a 2xx it
 * waits and sends the same again. What does not fit into its memory is lost, as with a real sender, and counted.
 */
public final class Sender implements AutoCloseable {

    private static final int BOUND = 100_000;
    private static final Duration PAUSE = Duration.ofSeconds(1);

    private final URI inlet;
    private final Function<byte[], Map<String, String>> headers;
    private final HttpClient client = HttpClient.newBuilder()
            .version(HttpClient.Version.HTTP_1_1)
            .connectTimeout(Duration.ofSeconds(5))
            .build();
    private final BlockingQueue<byte[]> queue = new LinkedBlockingQueue<>(BOUND);
    private final AtomicLong acknowledged = new AtomicLong();
    private final AtomicLong lost = new AtomicLong();
    private final Thread thread;

    /** @param headers of a request, given its body */
    public Sender(String name, URI inlet, Function<byte[], Map<String, String>> headers) {
        this.inlet = inlet;
        this.headers = headers;
        this.thread = Thread.ofVirtual().name(name).start(this::run);
    }

    public void send(byte[] body) {
        if (!queue.offer(body)) {
            lost.incrementAndGet();
        }
    }

    public long acknowledged() {
        return acknowledged.get();
    }

    public long waiting() {
        return queue.size();
    }

    public long lost() {
        return lost.get();
    }

    private void run() {
        try {
            while (true) {
                byte[] body = queue.take();
                while (!posted(body)) {
                    Thread.sleep(PAUSE);
                }
                acknowledged.incrementAndGet();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private boolean posted(byte[] body) throws InterruptedException {
        HttpRequest.Builder request = HttpRequest.newBuilder(inlet)
                .timeout(Duration.ofSeconds(20))
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofByteArray(body));
        headers.apply(body).forEach(request::header);
        try {
            HttpResponse<Void> response = client.send(request.build(), HttpResponse.BodyHandlers.discarding());
            return response.statusCode() / 100 == 2;
        } catch (IOException e) {
            return false; // not acknowledged, whatever happened; it is sent again
        }
    }

    @Override
    public void close() {
        thread.interrupt();
    }
}

package org.holtra.service.dispatch;

/** A sink that is closed once it has been retired and the last attempt through it has ended. */
final class SharedSink {

    private final Sink sink;
    private int users;
    private boolean retired;

    SharedSink(Sink sink) {
        this.sink = sink;
    }

    Sink sink() {
        return sink;
    }

    synchronized SharedSink use() {
        users++;
        return this;
    }

    synchronized void release() {
        users--;
        closeIfDone();
    }

    synchronized void retire() {
        retired = true;
        closeIfDone();
    }

    private void closeIfDone() {
        if (retired && users == 0) {
            sink.close();
        }
    }
}

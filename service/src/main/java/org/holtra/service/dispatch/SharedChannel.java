package org.holtra.service.dispatch;

/** A channel that is closed once it has been retired and the last attempt through it has ended. */
final class SharedChannel {

    private final Channel channel;
    private int users;
    private boolean retired;

    SharedChannel(Channel channel) {
        this.channel = channel;
    }

    Channel channel() {
        return channel;
    }

    synchronized SharedChannel use() {
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
            channel.close();
        }
    }
}

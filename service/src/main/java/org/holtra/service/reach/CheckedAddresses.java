package org.holtra.service.reach;

import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.List;
import org.apache.hc.client5.http.DnsResolver;
import org.apache.hc.client5.http.SystemDefaultDnsResolver;

/**
 * Looks up hosts for connections, and gives only addresses that outlets may reach. It is asked for every new connection, and
 * the connection is made to what it gave, so that a name that changes its address meanwhile reaches no further.
 */
public final class CheckedAddresses implements DnsResolver {

    /** The host has no address that outlets may reach. */
    public static final class OutOfReach extends UnknownHostException {

        private static final long serialVersionUID = 1;

        OutOfReach(String message) {
            super(message);
        }
    }

    private final Reach reach;

    public CheckedAddresses(Reach reach) {
        this.reach = reach;
    }

    @Override
    public InetAddress[] resolve(String host) throws UnknownHostException {
        List<InetAddress> within = new ArrayList<>();
        Reach needed = null;
        for (InetAddress address : SystemDefaultDnsResolver.INSTANCE.resolve(host)) {
            Reach one = Reach.neededFor(address);
            if (one != null && one.compareTo(reach) <= 0) {
                within.add(address);
            } else if (one != null) {
                needed = one;
            }
        }
        if (!within.isEmpty()) {
            return within.toArray(InetAddress[]::new);
        }
        String reason = needed == null
                ? " has an address that no outlet may reach (link-local, multicast or unspecified)"
                : " is " + needed.words() + ", and outlets may reach " + reach.reachable()
                        + " only; HOLTRA_OUTLETS_REACH says how far they may";
        throw new OutOfReach(host + reason);
    }

    @Override
    public List<InetSocketAddress> resolve(String host, int port) throws UnknownHostException {
        List<InetSocketAddress> all = new ArrayList<>();
        for (InetAddress address : resolve(host)) {
            all.add(new InetSocketAddress(address, port));
        }
        return all;
    }

    @Override
    public String resolveCanonicalHostname(String host) throws UnknownHostException {
        return SystemDefaultDnsResolver.INSTANCE.resolveCanonicalHostname(host);
    }
}

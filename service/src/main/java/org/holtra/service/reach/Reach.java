package org.holtra.service.reach;

import java.net.Inet6Address;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.Arrays;
import java.util.Locale;

/** How far outlets may reach; each includes those before it. */
public enum Reach {
    /** Addresses of the public internet. */
    PUBLIC("a public address", "public addresses"),
    /** Those of private networks too (RFC 1918, RFC 4193, RFC 6598). */
    PRIVATE("a private address", "public and private addresses"),
    /** This machine too: its loopback. */
    LOCAL("an address of this machine itself", "all addresses");

    private final String one;
    private final String all;

    Reach(String one, String all) {
        this.one = one;
        this.all = all;
    }

    public static Reach of(String word) {
        return Arrays.stream(values())
                .filter(reach -> reach.name().toLowerCase(Locale.ROOT).equals(word))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException(
                        "HOLTRA_OUTLETS_REACH is `" + word + "`; it must be public, private or local"));
    }

    /** In a sentence: what an address of it is; for the reach that is set, what may be reached. */
    String words() {
        return one;
    }

    String reachable() {
        return all;
    }

    /**
     * How far one has to reach for an address; null for those that no outlet may: link-local ones, where clouds keep the
     * secrets of machines, multicast and the unspecified address.
     */
    public static Reach neededFor(InetAddress given) {
        InetAddress address = embedded(given);
        byte[] bytes = address.getAddress();
        if (address.isLinkLocalAddress() || address.isMulticastAddress() || address.isAnyLocalAddress()) {
            return null;
        }
        if (address.isLoopbackAddress()) {
            return LOCAL;
        }
        if (bytes.length == 4) {
            return of4(bytes);
        }
        boolean unique = (bytes[0] & 0xfe) == 0xfc;
        return unique || address.isSiteLocalAddress() ? PRIVATE : PUBLIC;
    }

    private static Reach of4(byte[] bytes) {
        int first = bytes[0] & 0xff;
        int second = bytes[1] & 0xff;
        if (first == 0 || first >= 240) {
            return null;
        }
        boolean isPrivate = first == 10
                || first == 172 && second >= 16 && second < 32
                || first == 192 && second == 168
                || first == 100 && second >= 64 && second < 128;
        return isPrivate ? PRIVATE : PUBLIC;
    }

    /** The IPv4 address inside one of IPv6: translated (RFC 6052), 6to4 (RFC 3056), compatible (RFC 4291). */
    private static InetAddress embedded(InetAddress address) {
        if (!(address instanceof Inet6Address)) {
            return address;
        }
        byte[] bytes = address.getAddress();
        int at;
        if (startsWith(bytes, 0x00, 0x64, 0xff, 0x9b)) {
            at = 12;
        } else if (startsWith(bytes, 0x20, 0x02)) {
            at = 2;
        } else if (startsWith(bytes, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0)
                && !address.isLoopbackAddress()
                && !address.isAnyLocalAddress()) {
            at = 12;
        } else {
            return address;
        }
        try {
            return InetAddress.getByAddress(Arrays.copyOfRange(bytes, at, at + 4));
        } catch (UnknownHostException e) {
            throw new IllegalStateException("four bytes are an address", e);
        }
    }

    private static boolean startsWith(byte[] bytes, int... wanted) {
        for (int i = 0; i < wanted.length; i++) {
            if ((bytes[i] & 0xff) != wanted[i]) {
                return false;
            }
        }
        return true;
    }
}

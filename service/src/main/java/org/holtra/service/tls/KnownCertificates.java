package org.holtra.service.tls;

import java.security.cert.X509Certificate;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** Certificates that were read before, by their text: each request to an inlet asks for those of its authority. */
public final class KnownCertificates {

    private static final int MOST = 1_000;
    private static final Map<String, List<X509Certificate>> READ = new ConcurrentHashMap<>();

    private KnownCertificates() {}

    /** @throws IllegalArgumentException as {@link PemText#certificates} */
    public static List<X509Certificate> of(String text) {
        if (READ.size() >= MOST) {
            READ.clear();
        }
        return READ.computeIfAbsent(text, PemText::certificates);
    }
}

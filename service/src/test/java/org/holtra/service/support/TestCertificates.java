package org.holtra.service.support;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;

/** Certificates made for a test, by the keytool of the JDK. */
public final class TestCertificates {

    private static final String PASSWORD = "made-up";

    private final Path folder;

    public TestCertificates(Path folder) {
        this.folder = folder;
    }

    /** A key and its certificate, with those that signed it. */
    public record Pair(String alias, KeyStore store) {

        public List<X509Certificate> chain() {
            try {
                return Arrays.stream(store.getCertificateChain(alias))
                        .map(X509Certificate.class::cast)
                        .toList();
            } catch (GeneralSecurityException e) {
                throw new IllegalStateException(e);
            }
        }

        public X509Certificate certificate() {
            return chain().getFirst();
        }

        public String pem() {
            StringBuilder text = new StringBuilder();
            chain().forEach(one -> text.append(TestCertificates.pem("CERTIFICATE", encoded(one))));
            return text.toString();
        }

        public String keyPem() {
            try {
                return TestCertificates.pem(
                        "PRIVATE KEY", ((PrivateKey) store.getKey(alias, PASSWORD.toCharArray())).getEncoded());
            } catch (GeneralSecurityException e) {
                throw new IllegalStateException(e);
            }
        }

        /** For a server or client that shows this certificate and trusts these. */
        public SSLContext context(X509Certificate... trusted) {
            try {
                // Its own key alone: the store may hold that of its authority, too.
                KeyStore own = KeyStore.getInstance("PKCS12");
                own.load(null, null);
                own.setKeyEntry(
                        alias,
                        store.getKey(alias, PASSWORD.toCharArray()),
                        PASSWORD.toCharArray(),
                        store.getCertificateChain(alias));
                KeyManagerFactory keys = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
                keys.init(own, PASSWORD.toCharArray());
                SSLContext context = SSLContext.getInstance("TLS");
                context.init(keys.getKeyManagers(), trust(trusted).getTrustManagers(), null);
                return context;
            } catch (IOException | GeneralSecurityException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    private static byte[] encoded(Certificate certificate) {
        try {
            return certificate.getEncoded();
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    public static String pem(String what, byte[] der) {
        return "-----BEGIN " + what + "-----\n"
                + Base64.getMimeEncoder(64, new byte[] {'\n'}).encodeToString(der) + "\n-----END " + what + "-----\n";
    }

    public static TrustManagerFactory trust(X509Certificate... trusted) throws GeneralSecurityException {
        try {
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(null, null);
            for (X509Certificate one : trusted) {
                store.setCertificateEntry(Integer.toString(store.size()), one);
            }
            TrustManagerFactory factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
            factory.init(store);
            return factory;
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** One that signs itself, and may sign others. */
    public Pair authority(String name) {
        return pair(name, List.of("-ext", "bc:c", "-validity", "3650"));
    }

    /** One that signs itself, for a server at 127.0.0.1. */
    public Pair selfSigned(String name) {
        return pair(name, List.of("-ext", "san=ip:127.0.0.1,dns:localhost", "-validity", "2"));
    }

    /**
     * One that an authority signs.
     *
     * @param more further options of keytool, such as a validity in the past
     */
    public Pair signed(String name, Pair authority, String... more) {
        List<String> options = new ArrayList<>(List.of("-signer", authority.alias, "-signerkeypass", PASSWORD));
        options.addAll(List.of(more));
        // keytool signs with a key of the same store.
        Path store = folder.resolve(name + ".p12");
        try {
            Files.copy(folder.resolve(authority.alias + ".p12"), store);
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
        return pair(name, options);
    }

    private Pair pair(String name, List<String> options) {
        Path store = folder.resolve(name + ".p12");
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "keytool").toString(),
                "-genkeypair",
                "-alias",
                name,
                "-keyalg",
                "EC",
                "-dname",
                "CN=" + name,
                "-storetype",
                "PKCS12",
                "-keystore",
                store.toString(),
                "-storepass",
                PASSWORD));
        command.addAll(options);
        try {
            Process keytool =
                    new ProcessBuilder(command).redirectErrorStream(true).start();
            String said = new String(keytool.getInputStream().readAllBytes());
            if (keytool.waitFor() != 0) {
                throw new IllegalStateException(said);
            }
            return new Pair(name, KeyStore.getInstance(store.toFile(), PASSWORD.toCharArray()));
        } catch (IOException | GeneralSecurityException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }
}

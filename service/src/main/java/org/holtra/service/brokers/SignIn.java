package org.holtra.service.brokers;

import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.service.credentials.Credential;
import org.holtra.service.tls.ClientTls;

/**
 * What of a credential is presented to a broker; each null if there is none.
 *
 * @param authority that signed the broker's certificate, from a pasted bundle
 */
record SignIn(String user, String password, String certificate, String key, String authority) {

    private static final SignIn NONE = new SignIn(null, null, null, null, null);

    /** @param credential or null */
    static SignIn of(Credential credential) {
        return credential == null
                ? NONE
                : new SignIn(
                        filled(credential, "user"),
                        filled(credential, "password"),
                        filled(credential, "certificate"),
                        filled(credential, "key"),
                        filled(credential, "authority"));
    }

    private static String filled(Credential credential, String field) {
        String value = credential.fields().get(field);
        return value == null || value.isEmpty() ? null : value;
    }

    /** @param more authorities in PEM that are trusted too; or null */
    ClientTls tls(String more) {
        String all = Stream.of(authority, more).filter(text -> text != null).collect(Collectors.joining("\n"));
        return ClientTls.of(all.isEmpty() ? null : all, certificate, key);
    }
}

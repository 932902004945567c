package org.holtra.service.brokers;

import org.holtra.core.setup.SharedConnection;
import org.holtra.service.credentials.Credential;
import org.holtra.service.tls.ClientTls;

/**
 * A broker, and how one signs in there.
 *
 * @param version of the protocol: 3 (3.1.1) or 5
 * @param user null to give none
 * @param password null to give none
 * @param tls null where the address has none
 */
public record Broker(BrokerAddress address, int version, String user, String password, ClientTls tls) {

    /**
     * @param credential null if none is named, or there is none of that name
     * @throws IllegalArgumentException if its address or one of its certificates cannot be read
     */
    public static Broker of(SharedConnection connection, Credential credential) {
        BrokerAddress address = BrokerAddress.of(String.valueOf(connection.to().get("address")));
        int version = "3.1.1".equals(connection.to().get("version")) ? 3 : 5;
        String authority = (String) connection.to().get("authority");
        SignIn signIn = SignIn.of(credential);
        return new Broker(
                address, version, signIn.user(), signIn.password(), address.tls() ? signIn.tls(authority) : null);
    }
}

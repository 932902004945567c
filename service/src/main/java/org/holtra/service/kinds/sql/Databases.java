package org.holtra.service.kinds.sql;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.Properties;
import org.holtra.service.credentials.Credential;
import org.holtra.service.reach.ReachableSockets;

/** Connects to the databases that outlets write into. */
record Databases(String reach) {

    private static final int CONNECT_SECONDS = 5;

    /** @param credential null to connect without a user */
    Connection connect(SqlTarget target, Credential credential) throws SQLException {
        Connection connection = DriverManager.getConnection(url(target), properties(target, credential));
        connection.setAutoCommit(true);
        return connection;
    }

    static String url(SqlTarget target) {
        String host = target.host().contains(":") && !target.host().startsWith("[")
                ? "[" + target.host() + "]"
                : target.host();
        return "jdbc:postgresql://" + host + ":" + target.port() + "/" + target.database();
    }

    Properties properties(SqlTarget target, Credential credential) {
        Properties properties = new Properties();
        if (credential != null) {
            properties.setProperty("user", credential.field("user"));
            properties.setProperty("password", credential.field("password"));
        }
        properties.setProperty("ApplicationName", "holtra");
        properties.setProperty("connectTimeout", Integer.toString(CONNECT_SECONDS));
        properties.setProperty("loginTimeout", Integer.toString(2 * CONNECT_SECONDS));
        properties.setProperty("socketTimeout", Long.toString(target.timeout().toSeconds() + 1));
        properties.setProperty("reWriteBatchedInserts", "true");
        properties.setProperty("socketFactory", ReachableSockets.class.getName());
        properties.setProperty("socketFactoryArg", reach);
        properties.setProperty("sslmode", target.tls() ? "verify-full" : "disable");
        if (target.tls()) {
            properties.setProperty("sslfactory", TrustedSockets.class.getName());
            properties.setProperty("sslfactoryarg", target.authority() == null ? "" : target.authority());
        }
        return properties;
    }
}

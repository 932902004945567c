package org.holtra.bench.load;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import jakarta.servlet.AsyncContext;
import jakarta.servlet.http.HttpServlet;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.file.Files;
import java.security.SecureRandom;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.InstantSource;
import java.util.Collections;
import java.util.List;
import java.util.UUID;
import org.apache.catalina.connector.Connector;
import org.apache.catalina.core.StandardContext;
import org.apache.catalina.startup.Tomcat;
import org.apache.coyote.AbstractProtocol;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.http.io.entity.EntityUtils;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.service.journal.GroupCommit;

/**
 * What Holtra is held against: the same server and the same libraries, with nothing but the one thing that is measured.
 *
 * <ul>
 *   <li>{@code answer}: answers 202 and keeps nothing;
 *   <li>{@code commit}: answers 202 after a group commit of the rows that Holtra writes for a message of one lane;
 *   <li>{@code forward}: posts the body on and answers 202 then; keeps nothing.
 * </ul>
 */
public final class BareServer {

    private BareServer() {}

    /** @param arguments the mode, the port, and where to post on to or the database's address and password */
    public static void main(String[] arguments) throws Exception {
        Tomcat tomcat = new Tomcat();
        tomcat.setBaseDir(Files.createTempDirectory("bare").toString());
        Connector connector = new Connector();
        connector.setPort(Integer.parseInt(arguments[1]));
        if (connector.getProtocolHandler() instanceof AbstractProtocol<?> protocol) {
            protocol.setMaxThreads(64);
            protocol.setMaxConnections(4_096);
            if (protocol instanceof org.apache.coyote.http11.AbstractHttp11Protocol<?> http) {
                http.setMaxKeepAliveRequests(-1);
            }
        }
        tomcat.setConnector(connector);
        StandardContext context = (StandardContext) tomcat.addContext("", null);
        HttpServlet servlet = switch (arguments[0]) {
            case "answer" -> new Answering();
            case "commit" -> new Committing(arguments[2], arguments[3]);
            case "forward" -> new Forwarding(arguments[2]);
            default -> throw new IllegalArgumentException("answer, commit or forward, not " + arguments[0]);
        };
        Tomcat.addServlet(context, "all", servlet).setAsyncSupported(true);
        context.addServletMappingDecoded("/*", "all");
        tomcat.start();
        tomcat.getServer().await();
    }

    private static void accepted(HttpServletResponse response, UUID id) throws IOException {
        response.setStatus(202);
        response.setContentType("application/json");
        response.getOutputStream().write(("{\"id\":\"" + id + "\"}").getBytes());
    }

    private static final class Answering extends HttpServlet {
        private static final long serialVersionUID = 1L;

        @Override
        protected void service(HttpServletRequest request, HttpServletResponse response) throws IOException {
            request.getInputStream().readAllBytes();
            accepted(response, UUID.randomUUID());
        }
    }

    private static final class Forwarding extends HttpServlet {
        private static final long serialVersionUID = 1L;

        private final transient CloseableHttpClient client = HttpClients.custom()
                .setConnectionManager(PoolingHttpClientConnectionManagerBuilder.create()
                        .setMaxConnTotal(64)
                        .setMaxConnPerRoute(64)
                        .build())
                .disableAutomaticRetries()
                .build();
        private final String target;

        Forwarding(String target) {
            this.target = target;
        }

        @Override
        protected void service(HttpServletRequest request, HttpServletResponse response) throws IOException {
            HttpPost post = new HttpPost(target);
            post.setEntity(new ByteArrayEntity(request.getInputStream().readAllBytes(), ContentType.APPLICATION_JSON));
            client.execute(post, answer -> {
                EntityUtils.consume(answer.getEntity());
                return null;
            });
            accepted(response, UUID.randomUUID());
        }
    }

    /** A message and what is owed for it. */
    private record Row(MessageId id, byte[] body) {}

    private static final class Committing extends HttpServlet {
        private static final long serialVersionUID = 1L;

        private final transient Rows rows;
        private final transient GroupCommit<Row, Void> commits;
        private final transient MessageIds ids = new MessageIds(InstantSource.system(), new SecureRandom());

        Committing(String database, String password) {
            rows = new Rows(database, password);
            commits = new GroupCommit<>("bare", GroupCommit.Limits.of(10_000, 500), rows::insert);
        }

        @Override
        protected void service(HttpServletRequest request, HttpServletResponse response) throws IOException {
            Row row = new Row(ids.next(), request.getInputStream().readAllBytes());
            AsyncContext async = request.startAsync();
            async.setTimeout(0);
            commits.submit(row).whenComplete((nothing, failure) -> {
                try {
                    if (failure == null) {
                        accepted(response, row.id.value());
                    } else {
                        response.setStatus(503);
                    }
                } catch (IOException e) {
                    throw new IllegalStateException(e);
                } finally {
                    async.complete();
                }
            });
        }
    }

    /** Inserts the rows that Holtra would, by plain JDBC. */
    static final class Rows implements AutoCloseable {

        private static final byte[] AROUND =
                "{\"transport\":{\"remote\":\"127.0.0.1\",\"address\":\"/in/x\",\"fields\":{}},\"contentType\":\"application/json\"}"
                        .getBytes();

        private final HikariDataSource source;

        Rows(String database, String password) {
            HikariConfig config = new HikariConfig();
            config.setJdbcUrl(database);
            config.setUsername("holtra");
            config.setPassword(password);
            config.setMaximumPoolSize(4);
            config.setAutoCommit(false);
            source = new HikariDataSource(config);
        }

        @Override
        public void close() {
            source.close();
        }

        private List<Void> insert(List<Row> rows) {
            insert(
                    rows.stream().map(Row::id).toList(),
                    rows.stream().map(Row::body).toList());
            return Collections.nCopies(rows.size(), null);
        }

        /** In one transaction. */
        void insert(List<MessageId> ids, List<byte[]> bodies) {
            try (Connection connection = source.getConnection();
                    PreparedStatement messages = connection.prepareStatement("""
                            insert into message (id, received, inlet, state, device, event_time, type, simulated, setup_revision,
                                                 lanes, arrival, body)
                            select id, received, 'bare', 'read', device, received, 'reading', false, 1, array['bare'], around, body
                            from unnest(?::uuid[], ?::timestamptz[], ?::text[], ?::bytea[], ?::bytea[])
                              as r(id, received, device, around, body)
                            """);
                    PreparedStatement owed = connection.prepareStatement("""
                            insert into owed (id, message, received, lane, outlet, device, attempts, due, correction)
                            select id, message, received, 'bare', 'bare', device, 0, received, 0
                            from unnest(?::uuid[], ?::uuid[], ?::timestamptz[], ?::text[]) as r(id, message, received, device)
                            """)) {
                UUID[] keys = ids.stream().map(MessageId::value).toArray(UUID[]::new);
                Timestamp[] times =
                        ids.stream().map(id -> Timestamp.from(id.received())).toArray(Timestamp[]::new);
                String[] devices = ids.stream().map(id -> "station-00001").toArray(String[]::new);
                byte[][] around = ids.stream().map(id -> AROUND).toArray(byte[][]::new);
                messages.setArray(1, connection.createArrayOf("uuid", keys));
                messages.setArray(2, connection.createArrayOf("timestamptz", times));
                messages.setArray(3, connection.createArrayOf("text", devices));
                messages.setArray(4, connection.createArrayOf("bytea", around));
                messages.setArray(5, connection.createArrayOf("bytea", bodies.toArray(byte[][]::new)));
                messages.executeUpdate();
                owed.setArray(
                        1,
                        connection.createArrayOf(
                                "uuid",
                                ids.stream().map(id -> UUID.randomUUID()).toArray(UUID[]::new)));
                owed.setArray(2, connection.createArrayOf("uuid", keys));
                owed.setArray(3, connection.createArrayOf("timestamptz", times));
                owed.setArray(4, connection.createArrayOf("text", devices));
                owed.executeUpdate();
                connection.commit();
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }
    }
}

package org.holtra.service.web;

import jakarta.servlet.ServletException;
import java.io.IOException;
import java.util.Arrays;
import java.util.Set;
import org.apache.catalina.connector.Connector;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.valves.ValveBase;

/**
 * What comes to the port without TLS while the service has one with it: whoever only looks is sent on to the other, and whoever
 * sends anything is refused, since what was sent may have been read on its way. Inlets refuse it themselves, and note it.
 */
public final class PlainPort extends ValveBase {

    /** The profile in which the service speaks TLS. */
    public static final String TLS = "tls";

    /** The attribute of a request to an inlet that came without TLS and should not have. */
    public static final String WITHOUT_TLS = PlainPort.class.getName() + ".withoutTls";

    private static final Set<String> LOOKING = Set.of("GET", "HEAD");
    private static final String INLETS = "/in/";
    private static final int MOVED = 308;

    PlainPort() {
        super(true);
    }

    @Override
    public void invoke(Request request, Response response) throws IOException, ServletException {
        if (request.isSecure()) {
            getNext().invoke(request, response);
        } else if (request.getRequestURI().startsWith(INLETS)) {
            request.setAttribute(WITHOUT_TLS, true);
            getNext().invoke(request, response);
        } else if (LOOKING.contains(request.getMethod())) {
            response.setStatus(MOVED);
            response.setHeader("Location", address(request));
        } else {
            WebProblem.write(
                    response,
                    403,
                    "This port has no TLS",
                    "Call " + address(request) + " instead. What was sent here may have been read on its way.");
        }
    }

    private static String address(Request request) {
        int port = Arrays.stream(request.getConnector().getService().findConnectors())
                .filter(Connector::getSecure)
                .mapToInt(Connector::getLocalPort)
                .findFirst()
                .orElseThrow();
        String query = request.getQueryString();
        return "https://" + request.getServerName() + ":" + port + request.getRequestURI()
                + (query == null ? "" : "?" + query);
    }
}

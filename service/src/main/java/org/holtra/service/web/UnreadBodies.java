package org.holtra.service.web;

import jakarta.servlet.ServletException;
import java.io.IOException;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.valves.ValveBase;
import org.apache.coyote.ActionCode;

/**
 * A call that was refused before its body had come ends with its answer, and its connection soon after. The server would
 * otherwise read the body to its end first, at its sender's leisure.
 */
final class UnreadBodies extends ValveBase {

    private static final int REFUSED = 400;

    UnreadBodies() {
        super(true);
    }

    @Override
    public void invoke(Request request, Response response) throws IOException, ServletException {
        getNext().invoke(request, response);
        if (!request.isAsync() && response.getStatus() >= REFUSED && hasBody(request) && !request.isFinished()) {
            if (!response.isCommitted()) {
                response.setHeader("Connection", "close");
            }
            response.finishResponse();
            request.getCoyoteRequest().action(ActionCode.DISABLE_SWALLOW_INPUT, null);
        }
    }

    private static boolean hasBody(Request request) {
        return request.getContentLengthLong() > 0 || request.getHeader("Transfer-Encoding") != null;
    }
}

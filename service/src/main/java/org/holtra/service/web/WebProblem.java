package org.holtra.service.web;

import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.Map;
import tools.jackson.databind.json.JsonMapper;

/** Problem details (RFC 9457), written by what stands before the API. */
public final class WebProblem {

    /** The attribute of a request that holds sentences for the error page. */
    public static final String DETAIL = WebProblem.class.getName() + ".detail";

    private WebProblem() {}

    /** @param detail sentences that say what happened and what to do */
    public static void write(HttpServletResponse response, int status, String title, String detail) throws IOException {
        Map<String, Object> problem = new LinkedHashMap<>();
        problem.put("type", "about:blank");
        problem.put("title", title);
        problem.put("status", status);
        problem.put("detail", detail);
        response.setStatus(status);
        response.setContentType("application/problem+json");
        response.getOutputStream().write(JsonMapper.shared().writeValueAsBytes(problem));
    }
}

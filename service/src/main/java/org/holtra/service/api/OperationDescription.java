package org.holtra.service.api;

import io.swagger.v3.oas.models.Operation;
import io.swagger.v3.oas.models.responses.ApiResponse;
import io.swagger.v3.oas.models.responses.ApiResponses;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.springdoc.core.customizers.OperationCustomizer;
import org.springframework.stereotype.Component;
import org.springframework.web.method.HandlerMethod;

/**
 * What the published description tells of an operation beside its Javadoc: an id and a tag that follow from its class and
 * method, and the problems it can answer with.
 */
@Component
class OperationDescription implements OperationCustomizer {

    /** The response components of {@link OpenApiConfiguration}, by status. */
    static final Map<String, String> PROBLEMS = Map.of(
            "400", "Malformed",
            "401", "NotSignedIn",
            "404", "NotFound",
            "409", "Conflict",
            "422", "Unprocessable");

    private final OperationExamples examples;

    OperationDescription(OperationExamples examples) {
        this.examples = examples;
    }

    @Override
    public Operation customize(Operation operation, HandlerMethod handler) {
        String thing = handler.getBeanType().getSimpleName().replaceFirst("Controller$", "");
        String method = handler.getMethod().getName();
        operation.setOperationId(thing.substring(0, 1).toLowerCase(Locale.ROOT)
                + thing.substring(1)
                + method.substring(0, 1).toUpperCase(Locale.ROOT)
                + method.substring(1));
        operation.setTags(List.of(thing.replaceAll("(?<=[a-z])(?=[A-Z])", " ").toLowerCase(Locale.ROOT)));
        operation.setSummary(plain(operation.getSummary()));
        operation.setDescription(plain(operation.getDescription()));
        boolean takes = operation.getRequestBody() != null;
        boolean chooses = operation.getParameters() != null
                && operation.getParameters().stream().anyMatch(parameter -> "path".equals(parameter.getIn()));
        problem(operation, "401");
        if (takes || operation.getParameters() != null) {
            problem(operation, "400");
        }
        if (chooses) {
            problem(operation, "404");
        }
        if (takes) {
            problem(operation, "409");
            problem(operation, "422");
        }
        examples.addTo(operation);
        return operation;
    }

    /** Descriptions are Markdown (OpenAPI 3.1), Javadoc is HTML. */
    private static String plain(String text) {
        return text == null ? null : text.replaceAll("</?code>", "`").replaceAll("\\s*<p>\\s*", "\n\n");
    }

    private static void problem(Operation operation, String status) {
        ApiResponses responses = operation.getResponses();
        responses.putIfAbsent(status, new ApiResponse().$ref("#/components/responses/" + PROBLEMS.get(status)));
    }
}

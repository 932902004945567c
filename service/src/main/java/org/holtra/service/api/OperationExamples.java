package org.holtra.service.api;

import io.swagger.v3.oas.models.Operation;
import io.swagger.v3.oas.models.media.Content;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.text.ClassPathText;
import org.springframework.stereotype.Component;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Examples of calls and answers for the published description, by operation id; they stand in a file beside this class. */
@Component
class OperationExamples {

    /**
     * @param call a body as it is sent; null if the operation takes none
     * @param answer a body as it is answered; null if it has none
     */
    record Example(Object call, Object answer) {}

    private final Map<String, Example> examples = JsonMapper.shared()
            .readValue(
                    ClassPathText.beside(OperationExamples.class, "examples.json"),
                    new TypeReference<Map<String, Example>>() {});

    void addTo(Operation operation) {
        Example example = examples.get(operation.getOperationId());
        if (example == null) {
            return;
        }
        if (operation.getRequestBody() != null) {
            put(operation.getRequestBody().getContent(), example.call);
        }
        operation.getResponses().forEach((status, response) -> {
            if (status.startsWith("2")) {
                put(response.getContent(), example.answer);
            }
        });
    }

    private static void put(Content content, Object example) {
        if (example != null) {
            Optional.ofNullable(content).ifPresent(all -> all.values().forEach(type -> type.setExample(example)));
        }
    }
}

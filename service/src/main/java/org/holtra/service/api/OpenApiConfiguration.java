package org.holtra.service.api;

import io.swagger.v3.core.jackson.ModelResolver;
import io.swagger.v3.oas.models.Components;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.media.Content;
import io.swagger.v3.oas.models.media.IntegerSchema;
import io.swagger.v3.oas.models.media.MediaType;
import io.swagger.v3.oas.models.media.ObjectSchema;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.media.StringSchema;
import io.swagger.v3.oas.models.responses.ApiResponse;
import io.swagger.v3.oas.models.security.SecurityRequirement;
import io.swagger.v3.oas.models.security.SecurityScheme;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.springdoc.core.providers.ObjectMapperProvider;
import org.springdoc.core.utils.SpringDocUtils;
import org.springframework.boot.info.BuildProperties;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import tools.jackson.databind.JsonNode;

@Configuration
class OpenApiConfiguration {

    private static final String PROBLEM = "ProblemDetails";

    static {
        // Anything; by its getters it would be described as an object with forty properties.
        SpringDocUtils.getConfig().replaceWithSchema(JsonNode.class, new Schema<>());
    }

    @Bean
    OpenAPI openApi(BuildProperties build) {
        return new OpenAPI()
                .info(new Info()
                        .title("Holtra")
                        .version(build.getVersion())
                        .description("Everything the console and the command line do goes through this interface. "
                                + "Errors are problem details (RFC 9457). Lists that grow come in pages: `limit` says how many"
                                + " (up to 500), and the `next` of an answer is what the following request gives as"
                                + " `after`; it is null on the last page. Lists of the setup's parts come whole."))
                .components(problems(new Components())
                        .addSecuritySchemes(
                                "key",
                                new SecurityScheme()
                                        .type(SecurityScheme.Type.HTTP)
                                        .scheme("bearer"))
                        .addSecuritySchemes(
                                "session",
                                new SecurityScheme()
                                        .type(SecurityScheme.Type.APIKEY)
                                        .in(SecurityScheme.In.COOKIE)
                                        .name("JSESSIONID")))
                .addSecurityItem(new SecurityRequirement().addList("key"))
                .addSecurityItem(new SecurityRequirement().addList("session"));
    }

    @Bean
    ModelResolver schemas(ObjectMapperProvider mappers) {
        return new ModelResolver(mappers.jsonMapper(), new SchemaNames()).openapi31(true);
    }

    private static Components problems(Components components) {
        components.addSchemas(PROBLEM, problemSchema());
        problem(
                components,
                "400",
                "The call is malformed: a parameter or the body cannot be read.",
                Map.of("field", "limit"));
        problem(components, "401", "There is no session and no API key, or it is not valid.", Map.of());
        problem(components, "404", "There is no such thing.", Map.of());
        problem(components, "409", "It conflicts with how things are, such as a change made meanwhile.", Map.of());
        problem(components, "422", "It was read and is not right; the members say where.", Map.of());
        return components;
    }

    private static Schema<?> problemSchema() {
        return new ObjectSchema()
                .description("Problem details (RFC 9457). Further members say where the problem lies.")
                .addProperty("title", new StringSchema().description("What is wrong, in a few words."))
                .addProperty("status", new IntegerSchema().description("The status of the answer."))
                .addProperty("detail", new StringSchema().description("What is wrong, where, and how to mend it."))
                .addProperty("instance", new StringSchema().description("The path that was called."))
                .required(List.of("title", "status", "detail"))
                .additionalProperties(true);
    }

    private static void problem(Components components, String status, String description, Map<String, Object> more) {
        Map<String, Object> example = new LinkedHashMap<>();
        example.put("title", OperationDescription.PROBLEMS.get(status));
        example.put("status", Integer.valueOf(status));
        example.put("detail", description);
        example.putAll(more);
        components.addResponses(
                OperationDescription.PROBLEMS.get(status),
                new ApiResponse()
                        .description(description)
                        .content(new Content()
                                .addMediaType(
                                        "application/problem+json",
                                        new MediaType()
                                                .schema(new Schema<>().$ref("#/components/schemas/" + PROBLEM))
                                                .example(example))));
    }
}

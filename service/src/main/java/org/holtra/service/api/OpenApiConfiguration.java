package org.holtra.service.api;

import io.swagger.v3.oas.models.Components;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.security.SecurityRequirement;
import io.swagger.v3.oas.models.security.SecurityScheme;
import org.springframework.boot.info.BuildProperties;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class OpenApiConfiguration {

    @Bean
    OpenAPI openApi(BuildProperties build) {
        return new OpenAPI()
                .info(new Info()
                        .title("Holtra")
                        .version(build.getVersion())
                        .description("Everything the console and the command line do goes through this interface. "
                                + "Errors are problem details (RFC 9457)."))
                .components(new Components()
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
}

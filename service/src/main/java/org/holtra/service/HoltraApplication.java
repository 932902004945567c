package org.holtra.service;

import java.util.ArrayList;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.holtra.service.web.PlainPort;
import org.mybatis.spring.annotation.MapperScan;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;

/** The service: takes in, keeps, sends, answers; serves the console. */
@SpringBootApplication
@ConfigurationPropertiesScan
@MapperScan(annotationClass = Mapper.class)
public class HoltraApplication {

    public static void main(String[] args) {
        SpringApplication application = new SpringApplication(HoltraApplication.class);
        List<String> profiles = new ArrayList<>();
        if (!variable("HOLTRA_TLS_CERTIFICATE").isBlank()) {
            profiles.add(PlainPort.TLS);
        }
        if (variable("HOLTRA_LOG_FORMAT").equalsIgnoreCase("json")) {
            profiles.add("json-logs");
        }
        application.setAdditionalProfiles(profiles.toArray(String[]::new));
        application.run(args);
    }

    private static String variable(String name) {
        return System.getenv().getOrDefault(name, "");
    }
}

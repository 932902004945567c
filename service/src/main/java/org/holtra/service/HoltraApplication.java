package org.holtra.service;

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
        if (!System.getenv().getOrDefault("HOLTRA_TLS_CERTIFICATE", "").isBlank()) {
            application.setAdditionalProfiles(PlainPort.TLS);
        }
        application.run(args);
    }
}

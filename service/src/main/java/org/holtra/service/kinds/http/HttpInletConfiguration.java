package org.holtra.service.kinds.http;

import java.time.InstantSource;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.intake.Intake;
import org.springframework.boot.web.servlet.ServletRegistrationBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class HttpInletConfiguration {

    @Bean
    ServletRegistrationBean<HttpInletServlet> inletServlet(
            HttpInlets inlets, CredentialStore credentials, Intake intake, InstantSource clock) {
        ServletRegistrationBean<HttpInletServlet> servlet = new ServletRegistrationBean<>(
                new HttpInletServlet(inlets, credentials, intake, clock), HttpInletServlet.ROOT + "/*");
        servlet.setAsyncSupported(true);
        return servlet;
    }
}

package org.holtra.service.kinds.http;

import java.time.InstantSource;
import java.util.concurrent.ScheduledExecutorService;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.intake.Intake;
import org.holtra.service.web.BodyMemory;
import org.holtra.service.web.LeastRate;
import org.springframework.boot.web.servlet.ServletRegistrationBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class HttpInletConfiguration {

    @Bean
    ServletRegistrationBean<HttpInletServlet> inletServlet(
            HttpInlets inlets,
            CredentialStore credentials,
            Intake intake,
            InstantSource clock,
            RefusedCalls refused,
            ScheduledExecutorService connectionWatch) {
        SlowBody.Bounds bounds = new SlowBody.Bounds(LeastRate.USUAL, BodyMemory.ofHeap(), connectionWatch);
        ServletRegistrationBean<HttpInletServlet> servlet = new ServletRegistrationBean<>(
                new HttpInletServlet(inlets, credentials, intake, clock, bounds, refused),
                HttpInletServlet.ROOT + "/*");
        servlet.setAsyncSupported(true);
        return servlet;
    }
}

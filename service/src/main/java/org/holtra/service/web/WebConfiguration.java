package org.holtra.service.web;

import java.time.Duration;
import java.util.List;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.apache.catalina.connector.Connector;
import org.apache.catalina.valves.RemoteIpValve;
import org.apache.tomcat.util.net.SSLHostConfig;
import org.holtra.service.settings.HoltraSettings;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.tomcat.servlet.TomcatServletWebServerFactory;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.boot.web.servlet.FilterRegistrationBean;
import org.springframework.boot.webmvc.autoconfigure.DispatcherServletAutoConfiguration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Profile;

/** What the web server lets a caller have: time for headers and bodies, size, memory. */
@Configuration
class WebConfiguration {

    /** After the filter chain that checks who calls. */
    private static final int BEHIND_ACCESS = 0;

    private static final Duration HEADERS_WITHIN = Duration.ofSeconds(10);
    private static final Logger log = LoggerFactory.getLogger(WebConfiguration.class);

    @Bean
    WebServerFactoryCustomizer<TomcatServletWebServerFactory> boundedWebServer(
            ScheduledExecutorService connectionWatch, HoltraSettings settings) {
        return server -> {
            if (!settings.trustedProxies().isEmpty()) {
                server.addEngineValves(forwarded(settings.trustedProxies()));
            }
            server.setProtocol(BoundedHttp.class.getName());
            server.addEngineValves(new UnreadBodies());
            server.addConnectorCustomizers(connector -> watch(connector, connectionWatch));
        };
    }

    /** @param port without TLS; 0 for none */
    @Bean
    @Profile(PlainPort.TLS)
    WebServerFactoryCustomizer<TomcatServletWebServerFactory> plainPort(
            @Value("${holtra.plain-port}") int port,
            @Value("${server.address}") String address,
            ScheduledExecutorService connectionWatch) {
        return server -> {
            if (port > 0) {
                Connector connector = new Connector(BoundedHttp.class.getName());
                connector.setPort(port);
                connector.setProperty("address", address);
                watch(connector, connectionWatch);
                server.addAdditionalConnectors(connector);
                server.addEngineValves(new PlainPort());
            }
        };
    }

    /** @param asked whether senders are asked for a certificate; inlets can check them by it then */
    @Bean
    @Profile(PlainPort.TLS)
    WebServerFactoryCustomizer<TomcatServletWebServerFactory> clientCertificates(
            @Value("${holtra.client-certificates}") boolean asked) {
        return server -> server.addConnectorCustomizers(connector -> {
            if (asked) {
                for (SSLHostConfig host : connector.getProtocolHandler().findSslHostConfigs()) {
                    host.setCertificateVerification("optional");
                    host.setTrustManagerClassName(AnyClientCertificate.class.getName());
                }
            }
        });
    }

    /** Who called a proxy, and whether by TLS: it says so in headers, and anybody else could. */
    private static RemoteIpValve forwarded(List<String> proxies) {
        RemoteIpValve valve = new RemoteIpValve();
        valve.setInternalProxies(proxies.stream().map(Pattern::quote).collect(Collectors.joining("|")));
        valve.setRemoteIpHeader("X-Forwarded-For");
        valve.setProtocolHeader("X-Forwarded-Proto");
        return valve;
    }

    @Bean(destroyMethod = "shutdownNow")
    ScheduledExecutorService connectionWatch() {
        return Executors.newSingleThreadScheduledExecutor(
                Thread.ofPlatform().name("connection-watch").daemon().factory());
    }

    private static void watch(Connector connector, ScheduledExecutorService watch) {
        BoundedHttp protocol = (BoundedHttp) connector.getProtocolHandler();
        watch.scheduleWithFixedDelay(() -> closeSlow(protocol), 1, 1, TimeUnit.SECONDS);
    }

    private static void closeSlow(BoundedHttp protocol) {
        try {
            int closed = protocol.close(HEADERS_WITHIN);
            if (closed > 0) {
                log.debug("{} connections were closed whose headers did not come", closed);
            }
        } catch (RuntimeException e) {
            // A schedule ends at the first failure, and the watch with it.
            log.error("The watch over slow connections failed; it goes on", e);
        }
    }

    @Bean
    FilterRegistrationBean<ApiBodies> apiBodies() {
        FilterRegistrationBean<ApiBodies> filter =
                new FilterRegistrationBean<>(new ApiBodies(BodyMemory.ofHeap(), LeastRate.USUAL));
        // Filters of a URL stand before all filters of a servlet, as the one that checks who calls is.
        filter.setServletNames(List.of(DispatcherServletAutoConfiguration.DEFAULT_DISPATCHER_SERVLET_BEAN_NAME));
        filter.setOrder(BEHIND_ACCESS);
        filter.setAsyncSupported(true);
        return filter;
    }
}

package org.holtra.service.access;

import jakarta.servlet.Filter;
import java.util.List;
import org.springframework.beans.factory.config.BeanPostProcessor;
import org.springframework.boot.web.servlet.DelegatingFilterProxyRegistrationBean;
import org.springframework.boot.web.servlet.FilterRegistrationBean;
import org.springframework.boot.webmvc.autoconfigure.DispatcherServletAutoConfiguration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.web.filter.CharacterEncodingFilter;
import org.springframework.web.filter.RequestContextFilter;

/**
 * The filters stand before what Spring serves, and before nothing else: inlets check their senders themselves, and take
 * whatever headers and paths devices send.
 */
@Configuration
class FilterConfiguration {

    private static final List<String> SPRINGS =
            List.of(DispatcherServletAutoConfiguration.DEFAULT_DISPATCHER_SERVLET_BEAN_NAME);

    @Bean
    FilterRegistrationBean<CharacterEncodingFilter> encoding(CharacterEncodingFilter filter) {
        return before(filter);
    }

    @Bean
    FilterRegistrationBean<RequestContextFilter> requestContext() {
        return before(new RequestContextFilter());
    }

    private static <F extends Filter> FilterRegistrationBean<F> before(F filter) {
        FilterRegistrationBean<F> registration = new FilterRegistrationBean<>(filter);
        registration.setServletNames(SPRINGS);
        return registration;
    }

    @Bean
    static BeanPostProcessor securityWhereItBelongs() {
        return new BeanPostProcessor() {
            @Override
            public Object postProcessAfterInitialization(Object bean, String name) {
                if (bean instanceof DelegatingFilterProxyRegistrationBean filters) {
                    filters.setServletNames(SPRINGS);
                }
                return bean;
            }
        };
    }
}

package deftlens.server.platform;

import io.micrometer.observation.ObservationRegistry;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** Nobody reads observations of filters and handlers here, and taking them is a tenth of what a page of records costs. */
@Configuration(proxyBeanMethods = false)
class ObservationSettings {

    @Bean
    ObservationRegistry observations() {
        return ObservationRegistry.NOOP;
    }
}

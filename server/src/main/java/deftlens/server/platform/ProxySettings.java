package deftlens.server.platform;

import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.apache.catalina.valves.RemoteIpValve;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.tomcat.TomcatWebServerFactory;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/**
 * Where a request comes from. {@code X-Forwarded-For} and {@code X-Forwarded-Proto} are believed of the proxies named in
 * {@code deft.proxies} (addresses, with commas between) and of nobody else.
 */
@Configuration
class ProxySettings {

    @Bean
    WebServerFactoryCustomizer<TomcatWebServerFactory> proxies(@Value("${deft.proxies}") List<String> addresses) {
        List<String> named =
                addresses.stream().map(String::strip).filter(a -> !a.isEmpty()).toList();
        return factory -> {
            if (!named.isEmpty()) {
                RemoteIpValve valve = new RemoteIpValve();
                valve.setInternalProxies(named.stream().map(Pattern::quote).collect(Collectors.joining("|")));
                valve.setProtocolHeader("X-Forwarded-Proto");
                factory.addEngineValves(valve);
            }
        };
    }
}

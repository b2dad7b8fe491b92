package deftlens.server.statements;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadingCalls;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.Map;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.Ordered;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.HandlerMapping;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Says with each answer of a register what it rests on, so that a page never shows answers of two different kinds. */
@Configuration
class StampedAnswers implements WebMvcConfigurer {

    /** Carries a {@link Definitions.Stamp}. */
    static final String HEADER = "X-Definitions";

    private final Definitions definitions;

    StampedAnswers(Definitions definitions) {
        this.definitions = definitions;
    }

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(new HandlerInterceptor() {
                    @Override
                    public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
                        if (ReadingCalls.reads(request, handler)
                                && request.getAttribute(HandlerMapping.URI_TEMPLATE_VARIABLES_ATTRIBUTE)
                                        instanceof Map<?, ?> variables
                                && variables.get("key") instanceof String key) {
                            stamp(key, response);
                        }
                        return true;
                    }
                })
                .addPathPatterns("/api/registers/*", "/api/registers/*/**")
                // After it is known whether the call reads.
                .order(Ordered.LOWEST_PRECEDENCE);
    }

    private void stamp(String key, HttpServletResponse response) {
        Authentication signedIn = SecurityContextHolder.getContext().getAuthentication();
        if (signedIn != null && signedIn.getPrincipal() instanceof SignedIn who) {
            definitions.of(key, who).ifPresent(stamp -> response.setHeader(HEADER, stamp.toString()));
        }
    }
}

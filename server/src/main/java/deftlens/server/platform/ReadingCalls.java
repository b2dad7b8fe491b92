package deftlens.server.platform;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.springframework.context.annotation.Configuration;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Tells calls that only read from those that change something, which are never answered from what is remembered. */
@Configuration
public class ReadingCalls implements WebMvcConfigurer {

    private final EpochCache remembered;

    ReadingCalls(EpochCache remembered) {
        this.remembered = remembered;
    }

    /** Whether a call changes nothing: by its method, or because it says so. */
    public static boolean reads(HttpServletRequest request, Object handler) {
        return request.getMethod().equals("GET")
                || request.getMethod().equals("HEAD")
                || handler instanceof HandlerMethod method && method.hasMethodAnnotation(ReadsOnly.class);
    }

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(new HandlerInterceptor() {
            @Override
            public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
                if (!reads(request, handler)) {
                    remembered.end();
                }
                return true;
            }
        });
    }
}

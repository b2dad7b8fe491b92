package deftlens.server.people;

import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadingCalls;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Holds back who may only read: whatever a call does, it does not do it for them unless it says that it reads only. */
@Configuration
class RestraintSettings implements WebMvcConfigurer {

    /** The request's note that the password must be changed first. */
    static final String MUST_CHANGE_PASSWORD = "deft.must-change-password";

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(new Restraint()).addPathPatterns("/api/**");
    }

    private static final class Restraint implements HandlerInterceptor {

        @Override
        public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
            Authentication known = SecurityContextHolder.getContext().getAuthentication();
            String path = request.getRequestURI();
            if (known == null
                    || !(known.getPrincipal() instanceof SignedIn who)
                    || path.equals("/api/session")
                    || path.startsWith("/api/session/")) {
                return true;
            }
            if (Boolean.TRUE.equals(request.getAttribute(MUST_CHANGE_PASSWORD))
                    && !path.equals("/api/account/password")) {
                throw new Problem(
                        HttpStatus.FORBIDDEN,
                        "change-password",
                        "Somebody else chose your password. Choose your own on the account page, then go on.");
            }
            if (who.watcher().isPresent() && path.startsWith("/api/account")) {
                throw Problem.forbidden("An account is its person's own. Stop looking as somebody else first.");
            }
            if (who.restrained() && !ReadingCalls.reads(request, handler)) {
                throw who.watcher().isPresent()
                        ? Problem.forbidden("You look as somebody else, and change nothing meanwhile. Stop that first.")
                        : Problem.forbidden("This token only reads. Make one that may change things.");
            }
            return true;
        }
    }
}

package deftlens.server.people;

import deftlens.server.platform.Admits;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadingCalls;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/**
 * Decides at the handler of a call who is let in. What a handler does not say that it admits ({@link Admits}), it does not
 * admit: strangers, whoever has to change their password first, and, for what changes something, whoever only reads.
 */
@Configuration
class Gate implements WebMvcConfigurer {

    private static final String MUST_CHANGE_PASSWORD = Gate.class.getName() + ".password";

    /** Notes on a request how its person stands. */
    static void note(HttpServletRequest request, PeopleService.Standing standing) {
        request.setAttribute(MUST_CHANGE_PASSWORD, standing.mustChangePassword());
    }

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(new Restraint()).order(Ordered.HIGHEST_PRECEDENCE);
    }

    private static final class Restraint implements HandlerInterceptor {

        @Override
        public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
            if (!(handler instanceof HandlerMethod method) || !isOurs(method)) {
                return true;
            }
            Admits admits = admits(method);
            // Asked for at every call, so that whoever it is has been read anew before anything else happens.
            Authentication known = SecurityContextHolder.getContext().getAuthentication();
            if (known == null || !(known.getPrincipal() instanceof SignedIn who)) {
                if (!admits.strangers()) {
                    throw new Problem(HttpStatus.UNAUTHORIZED, "not-signed-in", "Sign in first.");
                }
                return true;
            }
            if (Boolean.TRUE.equals(request.getAttribute(MUST_CHANGE_PASSWORD)) && !admits.beforePasswordChange()) {
                throw new Problem(
                        HttpStatus.FORBIDDEN,
                        "change-password",
                        "Somebody else chose your password. Choose your own on the account page, then go on.");
            }
            if (who.watcher().isPresent() && !admits.watchers()) {
                throw Problem.forbidden("An account is its person's own. Stop looking as somebody else first.");
            }
            if (who.restrained() && !admits.readers() && !ReadingCalls.reads(request, handler)) {
                throw who.watcher().isPresent()
                        ? Problem.forbidden("You look as somebody else, and change nothing meanwhile. Stop that first.")
                        : Problem.forbidden("This token only reads. Make one that may change things.");
            }
            return true;
        }

        /** Whether the call is one of ours; those of libraries (the OpenAPI document, an error's page) tell nothing of anybody. */
        private static boolean isOurs(HandlerMethod method) {
            return method.getBeanType().getName().startsWith("deftlens.");
        }

        private static Admits admits(HandlerMethod method) {
            Admits own = AnnotatedElementUtils.findMergedAnnotation(method.getMethod(), Admits.class);
            Admits all =
                    own != null ? own : AnnotatedElementUtils.findMergedAnnotation(method.getBeanType(), Admits.class);
            return all == null ? USUAL : all;
        }
    }

    @Admits
    private static final class Usual {}

    private static final Admits USUAL = Usual.class.getAnnotation(Admits.class);
}

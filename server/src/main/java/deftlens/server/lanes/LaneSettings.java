package deftlens.server.lanes;

import deftlens.server.people.SignedIn;
import jakarta.servlet.http.HttpServletRequest;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.aopalliance.intercept.MethodInterceptor;
import org.springframework.aop.Advisor;
import org.springframework.aop.ProxyMethodInvocation;
import org.springframework.aop.support.DefaultPointcutAdvisor;
import org.springframework.aop.support.annotation.AnnotationMatchingPointcut;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.beans.factory.config.BeanDefinition;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Role;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.context.request.RequestContextHolder;
import org.springframework.web.context.request.ServletRequestAttributes;

/** Puts every call that {@link AsksRecords} through the lanes. */
@Configuration(proxyBeanMethods = false)
class LaneSettings {

    @Bean
    @Role(BeanDefinition.ROLE_INFRASTRUCTURE)
    static Advisor asksRecords(ObjectProvider<QuestionLanes> lanes) {
        MethodInterceptor throughLanes = invocation -> {
            if (Attempt.current().isPresent()) {
                return invocation.proceed();
            }
            HttpServletRequest request =
                    ((ServletRequestAttributes) RequestContextHolder.currentRequestAttributes()).getRequest();
            Authentication known = SecurityContextHolder.getContext().getAuthentication();
            SignedIn who = (SignedIn) known.getPrincipal();
            Optional<String> name = Optional.ofNullable(request.getHeader("X-Question"));
            return lanes.getObject()
                    .ask(
                            new QuestionLanes.Asker(who.id(), name, Optional.of(DepartedClients.Line.of(request))),
                            List.of(
                                    invocation.getMethod(),
                                    Arrays.stream(invocation.getArguments())
                                            .filter(a -> !a.equals(name))
                                            .toList()),
                            // A second try needs an invocation of its own.
                            () -> ((ProxyMethodInvocation) invocation)
                                    .invocableClone()
                                    .proceed());
        };
        return new DefaultPointcutAdvisor(
                AnnotationMatchingPointcut.forMethodAnnotation(AsksRecords.class), throughLanes);
    }
}

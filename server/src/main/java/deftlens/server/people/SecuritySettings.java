package deftlens.server.people;

import deftlens.server.platform.Problem;
import deftlens.server.platform.Remembered;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.authority.SimpleGrantedAuthority;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.crypto.bcrypt.BCryptPasswordEncoder;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.AccessDeniedHandler;
import org.springframework.security.web.authentication.UsernamePasswordAuthenticationFilter;
import org.springframework.security.web.context.HttpSessionSecurityContextRepository;
import org.springframework.security.web.context.SecurityContextRepository;
import org.springframework.security.web.csrf.CsrfException;
import org.springframework.web.filter.OncePerRequestFilter;
import tools.jackson.databind.ObjectMapper;

/** Who may reach what: the interface's files and the sign-in are open, everything else needs a session or a token. */
@Configuration
class SecuritySettings {

    @Bean
    PasswordEncoder passwordEncoder() {
        return new BCryptPasswordEncoder(10);
    }

    @Bean
    SecurityContextRepository securityContextRepository() {
        return new HttpSessionSecurityContextRepository();
    }

    @Bean
    SecurityFilterChain security(
            HttpSecurity http,
            PeopleService people,
            TokensService tokens,
            Remembered remembered,
            ObjectMapper json,
            SecurityContextRepository contexts,
            List<SignInWay> ways)
            throws Exception {
        AccessDeniedHandler denied = (request, response, e) -> write(
                json,
                response,
                e instanceof CsrfException
                        ? new Problem(
                                HttpStatus.FORBIDDEN,
                                "csrf",
                                "The request lacks its X-XSRF-TOKEN header. Send the value of the cookie XSRF-TOKEN; any GET sets it.")
                        : Problem.forbidden("You may not do this."));
        for (SignInWay way : ways) {
            way.addTo(http);
        }
        return http.csrf(csrf -> csrf.spa()
                        .ignoringRequestMatchers(request -> bearer(request).isPresent()))
                .securityContext(context -> context.securityContextRepository(contexts))
                .authorizeHttpRequests(requests -> requests.requestMatchers(
                                "/api/session",
                                "/api/session/**",
                                "/api/welcome",
                                "/api/welcome/**",
                                "/api/openapi.json",
                                "/actuator/health/**")
                        .permitAll()
                        .requestMatchers("/api/**", "/actuator/**")
                        .authenticated()
                        .anyRequest()
                        .permitAll())
                .exceptionHandling(handling -> handling.authenticationEntryPoint((request, response, e) -> write(
                                json,
                                response,
                                new Problem(HttpStatus.UNAUTHORIZED, "not-signed-in", "Sign in first.")))
                        .accessDeniedHandler(denied))
                .addFilterBefore(new TokenFilter(tokens, remembered, json), UsernamePasswordAuthenticationFilter.class)
                .addFilterAfter(new PersonFilter(people, remembered), TokenFilter.class)
                .requestCache(cache -> cache.disable())
                .httpBasic(basic -> basic.disable())
                .formLogin(form -> form.disable())
                .logout(logout -> logout.disable())
                .headers(headers -> headers.contentSecurityPolicy(
                                policy -> policy.policyDirectives(
                                        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-ancestors 'none'; base-uri 'self'; form-action 'self'"))
                        .frameOptions(frame -> frame.deny()))
                .build();
    }

    static UsernamePasswordAuthenticationToken authentication(SignedIn who) {
        return UsernamePasswordAuthenticationToken.authenticated(
                who, null, List.of(new SimpleGrantedAuthority("ROLE_" + who.role())));
    }

    private static Optional<String> bearer(HttpServletRequest request) {
        String header = request.getHeader(HttpHeaders.AUTHORIZATION);
        return header != null && header.regionMatches(true, 0, "Bearer ", 0, 7)
                ? Optional.of(header.substring(7).strip())
                : Optional.empty();
    }

    private static void write(ObjectMapper json, HttpServletResponse response, Problem problem) throws IOException {
        ProblemDetail detail = problem.detail();
        response.setStatus(detail.getStatus());
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
        response.setCharacterEncoding("UTF-8");
        response.getWriter().write(json.writeValueAsString(detail));
    }

    /** Signs a request in by its personal token, for that request only. */
    private static final class TokenFilter extends OncePerRequestFilter {
        private final TokensService tokens;
        private final Remembered remembered;
        private final ObjectMapper json;

        TokenFilter(TokensService tokens, Remembered remembered, ObjectMapper json) {
            this.tokens = tokens;
            this.remembered = remembered;
            this.json = json;
        }

        @Override
        protected boolean shouldNotFilter(HttpServletRequest request) {
            return !request.getRequestURI().startsWith("/api/");
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            Optional<String> token = bearer(request);
            if (token.isPresent()) {
                Optional<SignedIn> who = tokens.byToken(token.get());
                if (who.isEmpty()) {
                    write(
                            json,
                            response,
                            new Problem(
                                    HttpStatus.UNAUTHORIZED,
                                    "token-refused",
                                    "This token does not work (any more). Make a new one on your account page."));
                    return;
                }
                putInPlace(who.get());
                remembered.begin();
            }
            try {
                chain.doFilter(request, response);
            } finally {
                // Also what the next filter began, for whoever came with a session.
                remembered.end();
            }
        }
    }

    /**
     * Puts the person as they are now in the place of the one who signed in: role and teams may have changed, or they may have
     * left. Where an administrator looks as somebody else, that person is put there, restrained.
     */
    private static final class PersonFilter extends OncePerRequestFilter {
        private final PeopleService people;
        private final Remembered remembered;

        PersonFilter(PeopleService people, Remembered remembered) {
            this.people = people;
            this.remembered = remembered;
        }

        @Override
        protected boolean shouldNotFilter(HttpServletRequest request) {
            return !request.getRequestURI().startsWith("/api/")
                    || bearer(request).isPresent();
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            Authentication known = SecurityContextHolder.getContext().getAuthentication();
            if (known != null && known.getPrincipal() instanceof SignedIn signedIn) {
                HttpSession session = request.getSession(false);
                remembered.begin();
                Optional<PeopleService.Standing> now = people.now(signedIn.id());
                if (now.isEmpty()) {
                    if (session != null) {
                        session.invalidate();
                    }
                    SecurityContextHolder.clearContext();
                } else {
                    request.setAttribute(
                            RestraintSettings.MUST_CHANGE_PASSWORD, now.get().mustChangePassword());
                    putInPlace(seen(now.get(), session));
                }
            }
            chain.doFilter(request, response);
        }

        private SignedIn seen(PeopleService.Standing now, HttpSession session) {
            Object looking = session == null ? null : session.getAttribute(SessionsService.LOOKING_AS);
            if (looking instanceof Long id && now.who().administers()) {
                return people.now(id)
                        .map(other -> other.who().lookedAt(now.fullName()))
                        .orElse(now.who());
            }
            return now.who();
        }
    }

    private static void putInPlace(SignedIn who) {
        var context = SecurityContextHolder.createEmptyContext();
        context.setAuthentication(authentication(who));
        SecurityContextHolder.setContext(context);
    }
}

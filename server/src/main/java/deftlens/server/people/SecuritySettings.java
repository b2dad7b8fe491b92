package deftlens.server.people;

import deftlens.server.platform.EpochCache;
import deftlens.server.platform.Problem;
import deftlens.server.platform.WebPages;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
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
import org.springframework.security.web.header.writers.ReferrerPolicyHeaderWriter.ReferrerPolicy;
import org.springframework.web.filter.OncePerRequestFilter;
import tools.jackson.databind.ObjectMapper;

/**
 * Who may reach what: the interface's files and the sign-in are open, everything else, known or not, needs a session or a
 * token. What a call asks beyond that stands at its handler ({@link deftlens.server.platform.Admits}) and is held by
 * {@link Gate}.
 */
@Configuration
class SecuritySettings {

    @Bean
    PasswordEncoder passwordEncoder() {
        return new BCryptPasswordEncoder(10);
    }

    @Bean
    SecurityContextRepository securityContextRepository(PeopleService people, EpochCache remembered) {
        return new CurrentPersonContexts(new HttpSessionSecurityContextRepository(), people, remembered);
    }

    @Bean
    SecurityFilterChain security(
            HttpSecurity http,
            TokensService tokens,
            EpochCache remembered,
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
                .authorizeHttpRequests(requests -> requests.requestMatchers(WebPages.OPEN)
                        .permitAll()
                        .requestMatchers(
                                "/api/session",
                                "/api/session/looking-as",
                                "/api/welcome",
                                "/api/welcome/identity",
                                "/api/openapi.json",
                                "/actuator/health",
                                "/actuator/health/*",
                                "/error")
                        .permitAll()
                        .anyRequest()
                        .authenticated())
                .exceptionHandling(handling -> handling.authenticationEntryPoint((request, response, e) -> {
                            if (WebPages.isForPage(request, request.getRequestURI())) {
                                response.sendRedirect("/sign-in?to="
                                        + URLEncoder.encode(request.getRequestURI(), StandardCharsets.UTF_8));
                                return;
                            }
                            write(
                                    json,
                                    response,
                                    new Problem(HttpStatus.UNAUTHORIZED, "not-signed-in", "Sign in first."));
                        })
                        .accessDeniedHandler(denied))
                .addFilterBefore(new TokenFilter(tokens, remembered, json), UsernamePasswordAuthenticationFilter.class)
                .requestCache(cache -> cache.disable())
                .httpBasic(basic -> basic.disable())
                .formLogin(form -> form.disable())
                .logout(logout -> logout.disable())
                .headers(headers -> headers.contentSecurityPolicy(
                                policy -> policy.policyDirectives(
                                        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-ancestors 'none'; base-uri 'self'; form-action 'self'"))
                        .frameOptions(frame -> frame.deny())
                        .referrerPolicy(referrer -> referrer.policy(ReferrerPolicy.SAME_ORIGIN)))
                .build();
    }

    static UsernamePasswordAuthenticationToken authentication(SignedIn who) {
        return UsernamePasswordAuthenticationToken.authenticated(
                who, null, List.of(new SimpleGrantedAuthority("ROLE_" + who.role())));
    }

    static Optional<String> bearer(HttpServletRequest request) {
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

    /** Signs a request in by its personal token, for that request only, and forgets at its end what was remembered for it. */
    private static final class TokenFilter extends OncePerRequestFilter {
        private final TokensService tokens;
        private final EpochCache remembered;
        private final ObjectMapper json;

        TokenFilter(TokensService tokens, EpochCache remembered, ObjectMapper json) {
            this.tokens = tokens;
            this.remembered = remembered;
            this.json = json;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            try {
                Optional<String> token = bearer(request);
                if (token.isEmpty() || signIn(token.get(), request, response)) {
                    chain.doFilter(request, response);
                }
            } finally {
                // Also what was begun for whoever came with a session.
                remembered.end();
            }
        }

        /** @return whether the token works; if not, the request is answered */
        private boolean signIn(String token, HttpServletRequest request, HttpServletResponse response)
                throws IOException {
            remembered.begin();
            Optional<PeopleService.Standing> standing = tokens.byToken(token);
            if (standing.isEmpty()) {
                write(
                        json,
                        response,
                        new Problem(
                                HttpStatus.UNAUTHORIZED,
                                "token-refused",
                                "This token does not work (any more). Make a new one on your account page."));
                return false;
            }
            Gate.note(request, standing.get());
            var context = SecurityContextHolder.createEmptyContext();
            context.setAuthentication(authentication(standing.get().who()));
            SecurityContextHolder.setContext(context);
            return true;
        }
    }
}

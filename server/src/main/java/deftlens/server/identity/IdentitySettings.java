package deftlens.server.identity;

import deftlens.server.people.IdentityOffer;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SessionsService;
import deftlens.server.people.SignInWay;
import deftlens.server.people.SignedIn;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.autoconfigure.condition.ConditionalOnExpression;
import org.springframework.boot.context.properties.EnableConfigurationProperties;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.env.Environment;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.AuthenticationException;
import org.springframework.security.oauth2.client.OAuth2AuthorizedClient;
import org.springframework.security.oauth2.client.web.OAuth2AuthorizedClientRepository;
import org.springframework.security.oauth2.core.oidc.user.OidcUser;

/** Signing in through the organisation's identity provider: OpenID Connect Core 1.0, authorization code with PKCE. */
@Configuration
@EnableConfigurationProperties(IdentityProvider.class)
@ConditionalOnExpression(IdentitySettings.IS_THERE)
class IdentitySettings {

    /** Whether there is a provider at all. */
    static final String IS_THERE = "'${deft.identity.issuer:}' != ''";

    /** Where the sign-in page sends somebody; {@code to} is where they wanted to go. */
    static final String START = "/api/welcome/identity";

    /** The name of the one registration. */
    static final String REGISTRATION = "identity";

    static final String AUTHORIZE = "/identity/authorize";
    static final String RETURN = "/identity/return";
    private static final Logger LOG = LoggerFactory.getLogger(IdentitySettings.class);

    @Bean
    IdentityOffer identityOffer(IdentityProvider provider) {
        return new IdentityOffer(provider.label(), START);
    }

    @Bean
    ProviderAddresses providerAddresses(IdentityProvider provider, Environment environment) {
        return new ProviderAddresses(provider, environment);
    }

    @Bean
    SignInWay identityWay(
            IdentityProvider provider, PeopleService people, SessionsService sessions, ProviderAddresses addresses) {
        Arrival arrival = new Arrival(provider, people, sessions);
        return new SignInWay() {
            @Override
            public void addTo(HttpSecurity http) throws Exception {
                http.oauth2Login(login -> login.clientRegistrationRepository(
                                id -> REGISTRATION.equals(id) ? addresses.registration() : null)
                        .authorizedClientRepository(new KeepsNothing())
                        .authorizationEndpoint(at -> at.baseUri(AUTHORIZE))
                        .redirectionEndpoint(at -> at.baseUri(RETURN + "/*"))
                        .loginPage("/sign-in")
                        .successHandler(arrival::arrived)
                        .failureHandler(arrival::failed));
            }
        };
    }

    /** The provider's tokens are of no use to us once it has said who somebody is. */
    private static final class KeepsNothing implements OAuth2AuthorizedClientRepository {
        @Override
        public <T extends OAuth2AuthorizedClient> T loadAuthorizedClient(
                String id, Authentication principal, HttpServletRequest request) {
            return null;
        }

        @Override
        public void saveAuthorizedClient(
                OAuth2AuthorizedClient client,
                Authentication principal,
                HttpServletRequest request,
                HttpServletResponse response) {
            // Nothing is kept.
        }

        @Override
        public void removeAuthorizedClient(
                String id, Authentication principal, HttpServletRequest request, HttpServletResponse response) {
            // Nothing is kept.
        }
    }

    /** What happens when somebody comes back from the provider. */
    private record Arrival(IdentityProvider provider, PeopleService people, SessionsService sessions) {

        private static final String BY = "identity provider";

        void arrived(HttpServletRequest request, HttpServletResponse response, Authentication known)
                throws IOException {
            OidcUser user = (OidcUser) known.getPrincipal();
            String subject = user.getIssuer() + " " + user.getSubject();
            String name = Optional.ofNullable(user.getClaimAsString(provider.nameClaim()))
                    .orElse("");
            Optional<SignedIn> who = people.bySubject(subject)
                    .or(() -> name.isBlank() ? Optional.empty() : people.link(name, subject))
                    .or(() -> added(user, name, subject));
            String to = wanted(request);
            if (who.isEmpty()) {
                HttpSession session = request.getSession(false);
                if (session != null) {
                    session.invalidate();
                }
                sessions.refused(name, BY, request);
                refuse(
                        response,
                        name.isBlank()
                                ? "The identity provider did not say by which name you are known here."
                                : "Nobody here is “" + name + "”. Ask an administrator to add you.");
                return;
            }
            sessions.begin(who.get(), BY, request, response);
            response.sendRedirect(to);
        }

        private Optional<SignedIn> added(OidcUser user, String name, String subject) {
            return provider.addPeople() && people.isFree(name)
                    ? Optional.of(people.addLinked(
                            name, Optional.ofNullable(user.getFullName()).orElse(name), subject))
                    : Optional.empty();
        }

        void failed(HttpServletRequest request, HttpServletResponse response, AuthenticationException e)
                throws IOException {
            LOG.warn("signing in through the identity provider failed: {}", e.getMessage());
            sessions.refused("", BY, request);
            refuse(response, "Signing in through the identity provider did not work. Try again, or use your password.");
        }

        private static String wanted(HttpServletRequest request) {
            HttpSession session = request.getSession(false);
            Object to = session == null ? null : session.getAttribute(IdentityController.WANTED);
            return to instanceof String path ? path : "/";
        }

        private static void refuse(HttpServletResponse response, String sentence) throws IOException {
            response.sendRedirect(refused(sentence));
        }
    }

    /** The sign-in page with a sentence that says why somebody is back on it. */
    static String refused(String sentence) {
        return "/sign-in?refused=" + URLEncoder.encode(sentence, StandardCharsets.UTF_8);
    }
}

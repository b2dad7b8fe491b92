package deftlens.server.identity;

import org.springframework.core.env.Environment;
import org.springframework.security.oauth2.client.registration.ClientRegistration;
import org.springframework.security.oauth2.client.registration.ClientRegistrations;

/** Asks the provider for its addresses when somebody first signs in through it: it may start after us. */
class ProviderAddresses {

    private static final String PORT = "{port}";

    private final IdentityProvider provider;
    private final Environment environment;
    private volatile ClientRegistration known;

    ProviderAddresses(IdentityProvider provider, Environment environment) {
        this.provider = provider;
        this.environment = environment;
    }

    /**
     * The provider as we speak to it.
     *
     * @throws RuntimeException when it does not answer, or not as its standard says; asking again may help
     */
    ClientRegistration registration() {
        ClientRegistration found = known;
        if (found == null) {
            String issuer = provider.issuer().contains(PORT)
                    ? provider.issuer().replace(PORT, environment.getRequiredProperty("local.server.port"))
                    : provider.issuer();
            found = ClientRegistrations.fromIssuerLocation(issuer)
                    .registrationId(IdentitySettings.REGISTRATION)
                    .clientId(provider.clientId())
                    .clientSecret(provider.clientSecret())
                    .redirectUri("{baseUrl}" + IdentitySettings.RETURN + "/{registrationId}")
                    .scope("openid", "profile")
                    .clientSettings(ClientRegistration.ClientSettings.builder()
                            .requireProofKey(true)
                            .build())
                    .build();
            known = found;
        }
        return found;
    }
}

package deftlens.server.identity;

import org.springframework.boot.context.properties.ConfigurationProperties;

/**
 * The organisation's identity provider (OpenID Connect).
 *
 * @param issuer its address, under which {@code /.well-known/openid-configuration} is; empty for none. {@code {port}} in it is
 *     the port that this server answers on
 * @param label what the sign-in page calls it
 * @param nameClaim the claim that holds a person's sign-in name here, for their first sign-in through it
 * @param addPeople whether somebody who is not known here is added as a member
 */
@ConfigurationProperties("deft.identity")
record IdentityProvider(
        String issuer, String clientId, String clientSecret, String label, String nameClaim, boolean addPeople) {}

package deftlens.demo;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWSAlgorithm;
import com.nimbusds.jose.JWSHeader;
import com.nimbusds.jose.crypto.RSASSASigner;
import com.nimbusds.jose.jwk.JWKSet;
import com.nimbusds.jose.jwk.RSAKey;
import com.nimbusds.jose.jwk.gen.RSAKeyGenerator;
import com.nimbusds.jwt.JWTClaimsSet;
import com.nimbusds.jwt.SignedJWT;
import deftlens.server.people.DemoSignIns;
import deftlens.server.platform.Admits;
import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.http.HttpServletRequest;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.Date;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.core.env.Environment;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.support.ServletUriComponentsBuilder;
import org.springframework.web.util.HtmlUtils;
import org.springframework.web.util.UriComponents;
import org.springframework.web.util.UriComponentsBuilder;

/**
 * An identity provider for demonstrations and tests: as much of OpenID Connect Core 1.0 and Discovery 1.0 as one
 * authorization code with PKCE needs. It believes everybody, so it is in the demo's jar, and there in demo mode only.
 */
@Hidden
@RestController
@RequestMapping(StandInIdentity.PATH)
@Admits(strangers = true, beforePasswordChange = true, readers = true)
class StandInIdentity {

    static final String PATH = "/stand-in/identity";
    static final String CLIENT = "deft-lens";
    static final String SECRET = "stand-in-only";
    private static final Set<String> LOOPBACK = Set.of("localhost", "127.0.0.1", "[::1]");
    private static final int MOST_CODES = 1_000;
    private static final long LIVES_MILLIS = 300_000;

    private final RSAKey key;
    private final Environment environment;
    private final List<DemoSignIns.SignIn> offered;
    private final Map<String, Granted> codes = new ConcurrentHashMap<>();
    private final Map<String, String> tokens = new ConcurrentHashMap<>();

    /** What an authorization code stands for. */
    private record Granted(String name, String redirect, String nonce, String challenge, long until) {}

    StandInIdentity(Environment environment, DemoSignIns demo) throws JOSEException {
        this.key = new RSAKeyGenerator(2048).keyID("stand-in").generate();
        this.environment = environment;
        this.offered = demo.offered();
    }

    private String issuer() {
        return "http://localhost:" + environment.getRequiredProperty("local.server.port") + PATH;
    }

    @GetMapping("/.well-known/openid-configuration")
    Map<String, Object> configuration() {
        Map<String, Object> all = new LinkedHashMap<>();
        all.put("issuer", issuer());
        all.put("authorization_endpoint", issuer() + "/authorize");
        all.put("token_endpoint", issuer() + "/token");
        all.put("userinfo_endpoint", issuer() + "/userinfo");
        all.put("jwks_uri", issuer() + "/keys");
        all.put("response_types_supported", List.of("code"));
        all.put("subject_types_supported", List.of("public"));
        all.put("id_token_signing_alg_values_supported", List.of("RS256"));
        all.put("code_challenge_methods_supported", List.of("S256"));
        all.put("token_endpoint_auth_methods_supported", List.of("client_secret_basic"));
        return all;
    }

    @GetMapping("/keys")
    Map<String, Object> keys() {
        return new JWKSet(key.toPublicJWK()).toJSONObject();
    }

    /** Asks who somebody is; whoever they say they are, they are. */
    @GetMapping(path = "/authorize", produces = MediaType.TEXT_HTML_VALUE + ";charset=UTF-8")
    ResponseEntity<String> ask(
            @RequestParam("redirect_uri") String redirect,
            @RequestParam Optional<String> state,
            @RequestParam Optional<String> nonce,
            @RequestParam(name = "code_challenge") Optional<String> challenge,
            HttpServletRequest request) {
        // A form may lead back only to the host that its page is on: whoever came from 127.0.0.1 is asked there.
        Optional<String> host = otherNameOfThisMachine(redirect, request.getServerName());
        if (host.isPresent()) {
            return ResponseEntity.status(HttpStatus.FOUND)
                    .location(ServletUriComponentsBuilder.fromRequest(request)
                            .host(host.get())
                            .build(true)
                            .toUri())
                    .build();
        }
        StringBuilder options = new StringBuilder();
        for (DemoSignIns.SignIn one : offered) {
            options.append("<option value=\"")
                    .append(HtmlUtils.htmlEscape(one.name()))
                    .append("\">");
        }
        return ResponseEntity.ok("""
                <!doctype html><html lang="en"><meta charset="utf-8"><title>Stand-in identity provider</title>
                <style>body{font:16px/1.5 sans-serif;max-width:30em;margin:4em auto;padding:0 1em}
                input,button{font:inherit;padding:.3em .6em}label{display:block;margin:1em 0 .3em}</style>
                <main><h1>Stand-in identity provider</h1>
                <p>It stands for the provider of an organisation, for trying things out, and believes everybody.</p>
                <form method="post" action="%s/authorize">
                <label for="name">Who are you?</label>
                <input id="name" name="name" list="known" required autofocus autocomplete="off">
                <datalist id="known">%s</datalist>
                %s%s%s%s
                <button>Go on</button></form></main></html>""".formatted(
                        PATH,
                        options,
                        hidden("redirect_uri", redirect),
                        hidden("state", state.orElse("")),
                        hidden("nonce", nonce.orElse("")),
                        hidden("code_challenge", challenge.orElse(""))));
    }

    /** The host of an address of this very server, where it is another than the one that was called. */
    private Optional<String> otherNameOfThisMachine(String address, String called) {
        UriComponents wanted = UriComponentsBuilder.fromUriString(address).build();
        boolean here = LOOPBACK.contains(String.valueOf(wanted.getHost()))
                && String.valueOf(wanted.getPort()).equals(environment.getRequiredProperty("local.server.port"));
        return here && !called.equals(wanted.getHost()) ? Optional.of(wanted.getHost()) : Optional.empty();
    }

    private static String hidden(String name, String value) {
        return "<input type=\"hidden\" name=\"" + name + "\" value=\"" + HtmlUtils.htmlEscape(value) + "\">";
    }

    @PostMapping("/authorize")
    ResponseEntity<Void> grant(
            @RequestParam String name,
            @RequestParam("redirect_uri") String redirect,
            @RequestParam String state,
            @RequestParam String nonce,
            @RequestParam("code_challenge") String challenge) {
        if (codes.size() >= MOST_CODES) {
            codes.clear();
        }
        String code = random();
        codes.put(
                code, new Granted(name.strip(), redirect, nonce, challenge, System.currentTimeMillis() + LIVES_MILLIS));
        return ResponseEntity.status(HttpStatus.SEE_OTHER)
                .location(UriComponentsBuilder.fromUriString(redirect)
                        .queryParam("code", code)
                        .queryParam("state", "{state}")
                        .encode()
                        .buildAndExpand(state)
                        .toUri())
                .build();
    }

    @PostMapping("/token")
    ResponseEntity<Map<String, Object>> token(
            @RequestParam String code,
            @RequestParam("redirect_uri") String redirect,
            @RequestParam(name = "code_verifier") Optional<String> verifier,
            @RequestHeader(HttpHeaders.AUTHORIZATION) Optional<String> authorization)
            throws JOSEException {
        String expected =
                "Basic " + Base64.getEncoder().encodeToString((CLIENT + ":" + SECRET).getBytes(StandardCharsets.UTF_8));
        Granted granted = codes.remove(code);
        if (!authorization.filter(expected::equals).isPresent()) {
            return ResponseEntity.status(HttpStatus.UNAUTHORIZED).body(Map.of("error", "invalid_client"));
        }
        if (granted == null
                || granted.until() < System.currentTimeMillis()
                || !granted.redirect().equals(redirect)
                || !granted.challenge()
                        .equals(verifier.map(StandInIdentity::challenge).orElse(""))) {
            return ResponseEntity.badRequest().body(Map.of("error", "invalid_grant"));
        }
        long now = System.currentTimeMillis();
        SignedJWT identity = new SignedJWT(
                new JWSHeader.Builder(JWSAlgorithm.RS256).keyID(key.getKeyID()).build(),
                claims(granted.name())
                        .issuer(issuer())
                        .audience(CLIENT)
                        .issueTime(new Date(now))
                        .expirationTime(new Date(now + LIVES_MILLIS))
                        .claim("nonce", granted.nonce())
                        .build());
        identity.sign(new RSASSASigner(key));
        String access = random();
        tokens.put(access, granted.name());
        return ResponseEntity.ok(Map.of(
                "access_token",
                access,
                "token_type",
                "Bearer",
                "expires_in",
                LIVES_MILLIS / 1000,
                "id_token",
                identity.serialize()));
    }

    @GetMapping("/userinfo")
    ResponseEntity<Map<String, Object>> about(@RequestHeader(HttpHeaders.AUTHORIZATION) String authorization) {
        String name = tokens.remove(authorization.replaceFirst("(?i)^Bearer ", ""));
        return name == null
                ? ResponseEntity.status(HttpStatus.UNAUTHORIZED).build()
                : ResponseEntity.ok(claims(name).build().toJSONObject());
    }

    private static JWTClaimsSet.Builder claims(String name) {
        return new JWTClaimsSet.Builder()
                .subject("stand-in-" + challenge(name.toLowerCase(java.util.Locale.ROOT)))
                .claim("preferred_username", name)
                .claim("name", name);
    }

    private static String random() {
        byte[] bytes = new byte[24];
        new SecureRandom().nextBytes(bytes);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    /** The S256 form of RFC 7636. */
    private static String challenge(String verifier) {
        try {
            return Base64.getUrlEncoder()
                    .withoutPadding()
                    .encodeToString(
                            MessageDigest.getInstance("SHA-256").digest(verifier.getBytes(StandardCharsets.US_ASCII)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}

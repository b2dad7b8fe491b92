package deftlens.server.identity;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.springframework.core.env.StandardEnvironment;

class SilentProviderTest {

    @Test
    void aProviderThatDoesNotAnswerIsSaidOnTheSignInPage() {
        IdentityProvider silent =
                new IdentityProvider("http://127.0.0.1:9/nobody", "id", "secret", "it", "preferred_username", false);
        String to = new IdentityController(new ProviderAddresses(silent, new StandardEnvironment()))
                .start(Optional.empty(), null);
        assertThat(URLDecoder.decode(to, StandardCharsets.UTF_8))
                .isEqualTo(
                        "redirect:/sign-in?refused=The identity provider cannot be reached just now. Try again, or use your password.");
    }
}

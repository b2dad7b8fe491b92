package deftlens.server.identity;

import deftlens.server.platform.Admits;
import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.http.HttpServletRequest;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.autoconfigure.condition.ConditionalOnExpression;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Where signing in through the identity provider begins; remembers where somebody wanted to go. */
@Hidden
@Controller
@ConditionalOnExpression(IdentitySettings.IS_THERE)
class IdentityController {

    /** The session's note of the page that was asked for. */
    static final String WANTED = "deft.wanted";

    private static final Logger LOG = LoggerFactory.getLogger(IdentityController.class);

    private final ProviderAddresses addresses;

    IdentityController(ProviderAddresses addresses) {
        this.addresses = addresses;
    }

    /** Goes to the identity provider, to come back signed in. */
    @Admits(strangers = true, beforePasswordChange = true)
    @GetMapping(IdentitySettings.START)
    String start(@RequestParam Optional<String> to, HttpServletRequest request) {
        try {
            addresses.registration();
        } catch (RuntimeException e) {
            LOG.warn("the identity provider does not answer: {}", e.getMessage());
            return "redirect:"
                    + IdentitySettings.refused(
                            "The identity provider cannot be reached just now. Try again, or use your password.");
        }
        // Only pages of our own: an address that leaves us would make the sign-in a way to send people elsewhere.
        to.filter(t -> t.startsWith("/") && !t.startsWith("//") && !t.contains("\\"))
                .ifPresent(t -> request.getSession(true).setAttribute(WANTED, t));
        return "redirect:" + IdentitySettings.AUTHORIZE + "/" + IdentitySettings.REGISTRATION;
    }
}

package deftlens.server.platform;

import jakarta.servlet.http.HttpServletRequest;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.security.web.firewall.FirewalledRequest;
import org.springframework.security.web.firewall.HttpFirewall;
import org.springframework.security.web.firewall.RequestRejectedException;
import org.springframework.security.web.firewall.RequestRejectedHandler;
import org.springframework.security.web.firewall.StrictHttpFirewall;
import tools.jackson.databind.ObjectMapper;

/**
 * One path has one spelling. RFC 3986, 6.2.2.2, calls a percent-encoded letter, digit, dot, dash, underscore or tilde the same
 * as the plain one; here such a path is refused, as are doubled slashes, {@code ;} and dots that climb, so that nothing which
 * looks at a path can be passed by.
 */
@Configuration
class StrictPaths {

    @Bean
    HttpFirewall firewall() {
        return new StrictHttpFirewall() {
            @Override
            public FirewalledRequest getFirewalledRequest(HttpServletRequest request) {
                requireOneSpelling(request.getRequestURI());
                return super.getFirewalledRequest(request);
            }
        };
    }

    @Bean
    RequestRejectedHandler rejected(ObjectMapper json) {
        return (request, response, e) -> {
            response.setStatus(HttpStatus.BAD_REQUEST.value());
            response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
            response.setCharacterEncoding("UTF-8");
            response.setHeader(HttpHeaders.CACHE_CONTROL, "no-store");
            response.getWriter().write(json.writeValueAsString(refusal().detail()));
        };
    }

    /** What is said of a request in a form that is not taken. */
    static Problem refusal() {
        return Problem.badRequest(
                "bad-path",
                "This address is not spelled as it has to be. Write letters, digits and dots as they are, and no // or ; in a path.");
    }

    /**
     * Refuses a path with a percent-encoded unreserved character.
     *
     * @throws RequestRejectedException where there is one, or a broken encoding
     */
    static void requireOneSpelling(String path) {
        for (int at = path.indexOf('%'); at >= 0; at = path.indexOf('%', at + 1)) {
            int code = at + 2 < path.length() ? hex(path.charAt(at + 1)) * 16 + hex(path.charAt(at + 2)) : -1;
            if (code < 0
                    || code < 0x80
                            && (Character.isLetterOrDigit(code)
                                    || code == '-'
                                    || code == '.'
                                    || code == '_'
                                    || code == '~')) {
                throw new RequestRejectedException("a path in another spelling");
            }
        }
    }

    private static int hex(char digit) {
        int value = Character.digit(digit, 16);
        return value < 0 ? -1_000 : value;
    }
}

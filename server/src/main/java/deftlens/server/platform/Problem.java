package deftlens.server.platform;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;

/**
 * A refusal that a caller can act on, sent as an RFC 9457 problem with a stable {@code code} and a sentence that says
 * what to do.
 */
public class Problem extends RuntimeException {

    private final HttpStatus status;
    private final String code;
    private Duration retryAfter;
    private final Map<String, Object> details = new LinkedHashMap<>();

    /** A problem with its HTTP status, stable code and sentence. */
    public Problem(HttpStatus status, String code, String sentence) {
        super(sentence);
        this.status = status;
        this.code = code;
    }

    /** Something that is not there, or not for this person; the two are not told apart. */
    public static Problem notFound(String what) {
        return new Problem(HttpStatus.NOT_FOUND, "not-found", what + " is not there, or not shared with you.");
    }

    /** Something in the request that cannot be used. */
    public static Problem badRequest(String code, String sentence) {
        return new Problem(HttpStatus.BAD_REQUEST, code, sentence);
    }

    /** Well-formed content that means nothing here. */
    public static Problem unprocessable(String code, String sentence) {
        return new Problem(HttpStatus.UNPROCESSABLE_CONTENT, code, sentence);
    }

    /** Something this person may not do. */
    public static Problem forbidden(String sentence) {
        return new Problem(HttpStatus.FORBIDDEN, "not-allowed", sentence);
    }

    /** The stable code. */
    public String code() {
        return code;
    }

    /** Adds a member to the problem object. */
    public Problem with(String name, Object value) {
        details.put(name, value);
        return this;
    }

    /**
     * Says what in the request it is about, as a member {@code at} of the problem object, so that a form can point at its field.
     *
     * @param property the name of a property of the request's JSON object, such as {@code name}
     */
    public Problem at(String property) {
        return with("at", property);
    }

    /** Says when it may be worth trying again; sent as the header Retry-After (RFC 9110). */
    public Problem retryAfter(Duration wait) {
        retryAfter = wait;
        return this;
    }

    /** The header fields that go with the problem. */
    public HttpHeaders headers() {
        HttpHeaders headers = new HttpHeaders();
        if (retryAfter != null) {
            headers.set(HttpHeaders.RETRY_AFTER, String.valueOf(Math.max(1, retryAfter.toSeconds())));
        }
        return headers;
    }

    /** The problem object. */
    public ProblemDetail detail() {
        ProblemDetail detail = ProblemDetail.forStatusAndDetail(status, getMessage());
        detail.setTitle(status.getReasonPhrase());
        detail.setProperty("code", code);
        details.forEach(detail::setProperty);
        return detail;
    }
}

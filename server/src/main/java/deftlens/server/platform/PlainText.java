package deftlens.server.platform;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.util.Collection;
import java.util.Map;
import java.util.Optional;
import org.springframework.core.MethodParameter;
import org.springframework.core.Ordered;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpInputMessage;
import org.springframework.http.converter.HttpMessageConverter;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.HandlerMapping;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;
import org.springframework.web.servlet.mvc.method.annotation.RequestBodyAdviceAdapter;
import tools.jackson.databind.JsonNode;

/**
 * The one place that refuses text which is none: the NUL sign, which PostgreSQL does not keep, and halves of surrogate pairs,
 * which no encoding writes; and lists with nothing in a place. It sees bodies, parameters, paths and the headers that we read,
 * before anything else does.
 */
@RestControllerAdvice
class PlainText extends RequestBodyAdviceAdapter implements WebMvcConfigurer {

    private static final String[] HEADERS = {"X-Question", "Idempotency-Key", "If-Match"};

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(new Parameters()).order(Ordered.HIGHEST_PRECEDENCE);
    }

    private static Problem refusal(String where) {
        return Problem.badRequest(
                "bad-text",
                where
                        + " holds a sign that is no text: NUL (U+0000), or half of a surrogate pair. Leave it out and send the rest.");
    }

    private static boolean isPlain(String text) {
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == 0 || Character.isLowSurrogate(c)) {
                return false;
            }
            if (Character.isHighSurrogate(c)) {
                if (i + 1 == text.length() || !Character.isLowSurrogate(text.charAt(i + 1))) {
                    return false;
                }
                i++;
            }
        }
        return true;
    }

    private static final class Parameters implements HandlerInterceptor {
        @Override
        public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
            request.getParameterMap().forEach((name, values) -> {
                if (!isPlain(name)) {
                    throw refusal("The name of a parameter");
                }
                for (String value : values) {
                    if (!isPlain(value)) {
                        throw refusal("The parameter " + name);
                    }
                }
            });
            if (request.getAttribute(HandlerMapping.URI_TEMPLATE_VARIABLES_ATTRIBUTE) instanceof Map<?, ?> variables) {
                variables.forEach((name, value) -> {
                    if (!isPlain(String.valueOf(value))) {
                        throw refusal("The address");
                    }
                });
            }
            for (String header : HEADERS) {
                String value = request.getHeader(header);
                if (value != null && !isPlain(value)) {
                    throw refusal("The header " + header);
                }
            }
            return true;
        }
    }

    // ------------------------------------------------------------------ bodies

    @Override
    public boolean supports(MethodParameter parameter, Type type, Class<? extends HttpMessageConverter<?>> converter) {
        return true;
    }

    @Override
    public HttpInputMessage beforeBodyRead(
            HttpInputMessage message,
            MethodParameter parameter,
            Type type,
            Class<? extends HttpMessageConverter<?>> converter)
            throws IOException {
        InputStream body = new Scanned(message.getBody());
        return new HttpInputMessage() {
            @Override
            public InputStream getBody() {
                return body;
            }

            @Override
            public HttpHeaders getHeaders() {
                return message.getHeaders();
            }
        };
    }

    @Override
    public Object afterBodyRead(
            Object body,
            HttpInputMessage message,
            MethodParameter parameter,
            Type type,
            Class<? extends HttpMessageConverter<?>> converter) {
        requireFilled("", body);
        return body;
    }

    /** Refuses lists with nothing in a place, also inside of others. */
    private static void requireFilled(String path, Object value) {
        switch (value) {
            case null -> {}
            case JsonNode tree -> {}
            case Optional<?> optional -> optional.ifPresent(v -> requireFilled(path, v));
            case Collection<?> several -> {
                int i = 0;
                for (Object each : several) {
                    requireThere(path + "/" + i, each);
                    requireFilled(path + "/" + i, each);
                    i++;
                }
            }
            case Map<?, ?> members ->
                members.forEach((key, each) -> {
                    requireThere(path + "/" + key, each);
                    requireFilled(path + "/" + key, each);
                });
            case Record record -> {
                for (RecordComponent component : record.getClass().getRecordComponents()) {
                    Object each = value(component, record);
                    // What may be absent says so by its type, as it does in the OpenAPI document.
                    if (each == null && !JsonNode.class.isAssignableFrom(component.getType())) {
                        throw Problem.badRequest("bad-value", "“" + path + "/" + component.getName() + "” is missing.");
                    }
                    requireFilled(path + "/" + component.getName(), each);
                }
            }
            default -> {}
        }
    }

    private static void requireThere(String path, Object value) {
        if (value == null) {
            throw Problem.badRequest("bad-value", "“" + path + "” is null; leave it out or give it a value.");
        }
    }

    private static Object value(RecordComponent component, Record record) {
        try {
            component.getAccessor().setAccessible(true);
            return component.getAccessor().invoke(record);
        } catch (ReflectiveOperationException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The bytes of a JSON text (UTF-8, RFC 8259), refused as they come where they spell something that is no text. */
    private static final class Scanned extends FilterInputStream {

        /** How much of an escape has been seen: 0 none, 1 the backslash, 2 to 5 the u and its digits. */
        private int escape;

        private int code;
        private boolean highBefore;
        private int last;

        Scanned(InputStream in) {
            super(in);
        }

        @Override
        public int read() throws IOException {
            int b = super.read();
            if (b >= 0) {
                next(b);
            }
            return b;
        }

        @Override
        public int read(byte[] buffer, int offset, int length) throws IOException {
            int n = super.read(buffer, offset, length);
            for (int i = 0; i < n; i++) {
                next(buffer[offset + i] & 0xff);
            }
            return n;
        }

        private void next(int b) {
            if (escape == 0) {
                if (b == '\\') {
                    escape = 1;
                } else {
                    requireNoHigh();
                    // A surrogate that is encoded by itself begins with ED A0 to ED BF.
                    if (b == 0 || last == 0xed && b >= 0xa0) {
                        throw refusal("The body");
                    }
                }
            } else if (escape == 1) {
                escape = b == 'u' ? 2 : 0;
                code = 0;
                if (escape == 0) {
                    requireNoHigh();
                }
            } else {
                code = code * 16 + Math.max(Character.digit(b, 16), 0);
                if (++escape == 6) {
                    escape = 0;
                    unit((char) code);
                }
            }
            last = b;
        }

        private void unit(char unit) {
            if (Character.isLowSurrogate(unit)) {
                if (!highBefore) {
                    throw refusal("The body");
                }
                highBefore = false;
                return;
            }
            requireNoHigh();
            if (unit == 0) {
                throw refusal("The body");
            }
            highBefore = Character.isHighSurrogate(unit);
        }

        private void requireNoHigh() {
            if (highBefore) {
                throw refusal("The body");
            }
        }
    }
}

package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.lang.reflect.Proxy;
import org.apache.catalina.connector.ClientAbortException;
import org.junit.jupiter.api.Test;
import org.springframework.boot.autoconfigure.web.WebProperties;
import org.springframework.core.io.DefaultResourceLoader;

class ProblemAdviceTest {

    private final ProblemAdvice advice =
            new ProblemAdvice(new WebPages(new WebProperties(), new DefaultResourceLoader()));

    @Test
    void nothingIsSaidToWhoHungUp() {
        assertThat(advice.unexpected(new ClientAbortException(new IOException("Broken pipe")), request()))
                .isNull();
        assertThat(advice.unexpected(new RuntimeException(new IOException("Connection reset by peer")), request()))
                .isNull();
    }

    @Test
    void ourOwnMistakesAreSaidToBeOurs() {
        var answer = advice.unexpected(new IllegalStateException("a secret of ours"), request());
        assertThat(answer.getStatusCode().value()).isEqualTo(500);
        assertThat(answer.getBody().getProperties()).containsEntry("code", "our-mistake");
        assertThat(answer.getBody().getDetail()).doesNotContain("secret");
    }

    private static HttpServletRequest request() {
        return (HttpServletRequest) Proxy.newProxyInstance(
                ProblemAdviceTest.class.getClassLoader(),
                new Class<?>[] {HttpServletRequest.class},
                (proxy, method, args) -> method.getName().equals("getMethod") ? "GET" : "/assets/page.js");
    }
}

package deftlens.demo;

import deftlens.server.testing.TestServer;
import java.util.Map;
import org.springframework.context.ConfigurableApplicationContext;

/** A server in demo mode, with the demo world. */
class DemoServer extends TestServer {

    @Override
    protected Map<String, String> settings() {
        return Map.of("deft.demo.enabled", "true");
    }

    @Override
    protected void prepare(ConfigurableApplicationContext started) {
        // The demo loads itself.
    }

    @Override
    protected String cleaning() {
        return "truncate sign_in_try, spring_session cascade";
    }
}

package deftlens.e2e;

import deftlens.demo.DemoViews;
import deftlens.server.testing.TestServer;
import java.util.HashMap;
import java.util.Map;
import org.springframework.context.ConfigurableApplicationContext;

/**
 * The demo world on a server of its own; what people keep is taken out again before each class. With
 * {@code -Ddeft.e2e.latest=400} each of its answers comes up to 400 ms late, which shows what only works on a fast
 * network.
 */
public class DemoServer extends TestServer {

    private static final int VIEWS_OF_THE_DEMO = DemoViews.all().size();

    @Override
    protected Map<String, String> settings() {
        Map<String, String> settings = new HashMap<>(Map.of("deft.demo.enabled", "true", "deft.limits.beat", "15s"));
        String latest = System.getProperty("deft.e2e.latest");
        if (latest != null) {
            settings.put("deft.test.latest", latest);
        }
        return settings;
    }

    @Override
    protected void prepare(ConfigurableApplicationContext started) {
        // The demo loads itself.
    }

    @Override
    protected String cleaning() {
        return "delete from trail where subject = 'view' and subject_id > " + VIEWS_OF_THE_DEMO
                + "; delete from kept_view where id > " + VIEWS_OF_THE_DEMO
                + "; truncate spring_session, pin, record_seen, view_opening, view_reader, view_attention, team_view cascade"
                + "; update person set list_arrangement = null where list_arrangement is not null";
    }
}

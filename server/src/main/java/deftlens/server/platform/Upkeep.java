package deftlens.server.platform;

import java.time.Duration;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.DisposableBean;
import org.springframework.stereotype.Component;

/**
 * What each process does for itself every now and then: watch its own lines, say that it is there. What any server could do for all is a
 * job.
 */
@Component
public class Upkeep implements DisposableBean {

    private static final Logger LOG = LoggerFactory.getLogger(Upkeep.class);
    private static final int THREADS = 3;

    private final ScheduledExecutorService clock = Executors.newScheduledThreadPool(
            THREADS, Thread.ofPlatform().daemon().name("upkeep-", 0).factory());

    /** Does something again and again, so long after it was done last, for the first time after that time. */
    public void every(Duration time, Runnable work) {
        clock.scheduleWithFixedDelay(
                () -> {
                    try {
                        work.run();
                    } catch (RuntimeException e) {
                        // It is tried again; the database may be away for a moment.
                        LOG.warn("upkeep was left out once: {}", e.toString());
                    }
                },
                time.toMillis(),
                time.toMillis(),
                TimeUnit.MILLISECONDS);
    }

    @Override
    public void destroy() {
        clock.shutdownNow();
    }
}

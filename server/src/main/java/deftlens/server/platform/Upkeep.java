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
        clock.scheduleWithFixedDelay(safely(work), time.toMillis(), time.toMillis(), TimeUnit.MILLISECONDS);
    }

    /** Does something once, after a time. */
    public void after(Duration time, Runnable work) {
        clock.schedule(safely(work), time.toMillis(), TimeUnit.MILLISECONDS);
    }

    private static Runnable safely(Runnable work) {
        return () -> {
            try {
                work.run();
            } catch (RuntimeException e) {
                // The database may be away for a moment; what is done again and again is tried again.
                LOG.warn("upkeep was left out once: {}", e.toString());
            }
        };
    }

    @Override
    public void destroy() {
        clock.shutdownNow();
    }
}

package deftlens.server.platform;

import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.scheduling.concurrent.ThreadPoolTaskScheduler;

/**
 * What runs by the clock. On several threads, so that the nightly look, which takes minutes, does not hold up what has to
 * happen every few seconds.
 */
@Configuration
class SchedulingSettings {

    private static final int THREADS = 4;

    @Bean
    ThreadPoolTaskScheduler taskScheduler() {
        ThreadPoolTaskScheduler scheduler = new ThreadPoolTaskScheduler();
        scheduler.setPoolSize(THREADS);
        scheduler.setDaemon(true);
        scheduler.setThreadNamePrefix("by-the-clock-");
        return scheduler;
    }
}

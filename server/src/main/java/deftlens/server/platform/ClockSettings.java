package deftlens.server.platform;

import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** The one clock of the server. */
@Configuration
class ClockSettings {

    /** The clock; with a day given (demonstrations and tests) it stands at 09:30 London time of that day. */
    @Bean
    Clock clock(@Value("${deft.clock.on:}") String on) {
        if (on.isBlank()) {
            return Clock.systemUTC();
        }
        ZoneId zone = ZoneId.of("Europe/London");
        return Clock.fixed(
                LocalDate.parse(on).atTime(LocalTime.of(9, 30)).atZone(zone).toInstant(), zone);
    }
}

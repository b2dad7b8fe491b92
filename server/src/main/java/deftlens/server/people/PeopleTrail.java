package deftlens.server.people;

import deftlens.server.trail.Named;
import deftlens.server.trail.NamesInTable;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.jdbc.core.JdbcTemplate;

/** How the trail calls what this feature writes of. */
@Configuration
class PeopleTrail {

    @Bean
    Named peopleInTrail(JdbcTemplate database) {
        return new NamesInTable("team", "team", "name", database);
    }
}

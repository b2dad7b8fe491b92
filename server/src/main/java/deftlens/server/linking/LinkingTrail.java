package deftlens.server.linking;

import deftlens.server.trail.Named;
import deftlens.server.trail.NamesInTable;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.jdbc.core.JdbcTemplate;

/** How the trail calls what this feature writes of. */
@Configuration
class LinkingTrail {

    @Bean
    Named linkingInTrail(JdbcTemplate database) {
        return new NamesInTable("linked server", "linked_server", "label", database);
    }
}

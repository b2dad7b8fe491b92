package deftlens.server.views;

import deftlens.server.trail.Named;
import deftlens.server.trail.NamesInTable;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.jdbc.core.JdbcTemplate;

/** How the trail calls what this feature writes of. */
@Configuration
class ViewsTrail {

    @Bean
    Named viewsInTrail(JdbcTemplate database) {
        return new NamesInTable("view", "kept_view", "name", database);
    }
}

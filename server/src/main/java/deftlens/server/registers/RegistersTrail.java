package deftlens.server.registers;

import deftlens.server.trail.Named;
import deftlens.server.trail.NamesInTable;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.jdbc.core.JdbcTemplate;

/** How the trail calls what this feature writes of. */
@Configuration
class RegistersTrail {

    @Bean
    Named registersInTrail(JdbcTemplate database) {
        return new NamesInTable("register", "register", "label", database);
    }
}

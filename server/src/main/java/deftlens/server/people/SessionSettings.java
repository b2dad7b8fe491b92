package deftlens.server.people;

import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.session.config.SessionRepositoryCustomizer;
import org.springframework.session.jdbc.JdbcIndexedSessionRepository;

/** How sessions are kept. */
@Configuration
class SessionSettings {

    /** How exactly the last use of a session is known, in milliseconds. */
    private static final long EXACTLY = 60_000;

    /**
     * Every request is a use of its session; written each time, that would make every look at a record a write to disk. So the
     * last use is written once in a while, and anything else about a session at once.
     */
    private static final String UPDATE = """
            UPDATE %TABLE_NAME% s
            SET SESSION_ID = n.session_id, LAST_ACCESS_TIME = n.last_access, MAX_INACTIVE_INTERVAL = n.inactive,
                EXPIRY_TIME = n.expiry, PRINCIPAL_NAME = n.principal
            FROM (VALUES (CAST(? AS text), CAST(? AS bigint), CAST(? AS integer), CAST(? AS bigint), CAST(? AS text),
                    CAST(? AS text))) AS n (session_id, last_access, inactive, expiry, principal, primary_id)
            WHERE s.PRIMARY_ID = n.primary_id
            AND (n.last_access - s.LAST_ACCESS_TIME > %EXACTLY%
                OR s.SESSION_ID <> n.session_id
                OR s.MAX_INACTIVE_INTERVAL <> n.inactive
                OR s.PRINCIPAL_NAME IS DISTINCT FROM n.principal)
            """.replace("%EXACTLY%", Long.toString(EXACTLY));

    @Bean
    SessionRepositoryCustomizer<JdbcIndexedSessionRepository> lastUseOnceInAWhile() {
        return repository -> repository.setUpdateSessionQuery(UPDATE);
    }
}

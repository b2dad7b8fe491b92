package deftlens.server.lanes;

import com.zaxxer.hikari.HikariDataSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.springframework.beans.factory.DisposableBean;
import org.springframework.boot.context.properties.bind.Bindable;
import org.springframework.boot.context.properties.bind.Binder;
import org.springframework.boot.jdbc.autoconfigure.DataSourceProperties;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Primary;
import org.springframework.core.env.Environment;
import org.springframework.jdbc.datasource.lookup.AbstractRoutingDataSource;

/** The database, with a pool of connections for each lane. */
final class LaneDataSource extends AbstractRoutingDataSource implements DisposableBean {

    private final List<HikariDataSource> pools = new ArrayList<>();

    LaneDataSource(DataSourceProperties properties, Environment environment) {
        Map<Object, Object> lanes = new HashMap<>();
        for (Lane lane : Lane.values()) {
            HikariDataSource pool = properties
                    .initializeDataSourceBuilder()
                    .type(HikariDataSource.class)
                    .build();
            Binder.get(environment).bind("spring.datasource.hikari", Bindable.ofInstance(pool));
            pool.setPoolName(lane.name().toLowerCase(Locale.ROOT));
            pool.setMaximumPoolSize(lane.connections());
            pool.setMinimumIdle(lane == Lane.PAGES ? lane.connections() / 2 : 1);
            pools.add(pool);
            lanes.put(lane, pool);
        }
        setTargetDataSources(lanes);
        setDefaultTargetDataSource(lanes.get(Lane.PAGES));
        initialize();
    }

    @Override
    protected Object determineCurrentLookupKey() {
        return Lane.current();
    }

    @Override
    public void destroy() {
        pools.forEach(HikariDataSource::close);
    }

    @Configuration
    static class Settings {
        @Bean
        @Primary
        LaneDataSource dataSource(DataSourceProperties properties, Environment environment) {
            return new LaneDataSource(properties, environment);
        }
    }
}

package deftlens.server.rows;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.LocalDate;
import org.hibernate.Session;
import org.hibernate.engine.spi.SessionFactoryImplementor;
import org.hibernate.type.CustomType;
import org.hibernate.type.descriptor.WrapperOptions;
import org.hibernate.usertype.UserType;

/**
 * A day handed to the driver as it is. As a date of JDBC it passes through the Julian calendar before October 1582, which has
 * other days than PostgreSQL.
 */
final class DirectDay implements UserType<LocalDate> {

    private DirectDay() {}

    /** The type, for binding values in a session. */
    static CustomType<LocalDate> in(Session session) {
        return new CustomType<>(
                new DirectDay(),
                session.getSessionFactory()
                        .unwrap(SessionFactoryImplementor.class)
                        .getTypeConfiguration());
    }

    @Override
    public int getSqlType() {
        return Types.DATE;
    }

    @Override
    public Class<LocalDate> returnedClass() {
        return LocalDate.class;
    }

    @Override
    public LocalDate nullSafeGet(ResultSet found, int column, WrapperOptions options) throws SQLException {
        return found.getObject(column, LocalDate.class);
    }

    @Override
    public void nullSafeSet(PreparedStatement statement, LocalDate day, int place, WrapperOptions options)
            throws SQLException {
        statement.setObject(place, day);
    }

    @Override
    public LocalDate deepCopy(LocalDate day) {
        return day;
    }

    @Override
    public boolean isMutable() {
        return false;
    }
}

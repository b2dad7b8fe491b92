package deftlens.server.organisation;

import jakarta.persistence.CollectionTable;
import jakarta.persistence.Column;
import jakarta.persistence.ElementCollection;
import jakarta.persistence.Embeddable;
import jakarta.persistence.Entity;
import jakarta.persistence.FetchType;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.HashSet;
import java.util.Set;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** The one organisation that this installation serves, with the calendar its windows are read in. */
@Entity
@Table(name = "organisation")
class Organisation {

    static final short ONLY = 1;

    @Id
    private short id = ONLY;

    private String name;
    private String zone;

    @Column(name = "week_starts")
    private short weekStarts;

    @Column(name = "fiscal_year_starts")
    private short fiscalYearStarts;

    @JdbcTypeCode(SqlTypes.JSON)
    private String windows = "[]";

    @ElementCollection(fetch = FetchType.LAZY)
    @CollectionTable(name = "working_hours", joinColumns = @JoinColumn(name = "organisation_id"))
    private Set<WorkingHours> hours = new HashSet<>();

    @ElementCollection(fetch = FetchType.LAZY)
    @CollectionTable(name = "working_exception", joinColumns = @JoinColumn(name = "organisation_id"))
    private Set<WorkingException> exceptions = new HashSet<>();

    @Version
    private int version;

    /** One stretch of working time on a day of the week. */
    @Embeddable
    record WorkingHours(
            short weekday,
            @Column(name = "from_time") LocalTime from,
            @Column(name = "to_time") LocalTime to) {}

    /** A single date with hours of its own. */
    @Embeddable
    record WorkingException(
            LocalDate day,
            String label,
            @JdbcTypeCode(SqlTypes.JSON) String hours) {}

    protected Organisation() {}

    String name() {
        return name;
    }

    String zone() {
        return zone;
    }

    short weekStarts() {
        return weekStarts;
    }

    short fiscalYearStarts() {
        return fiscalYearStarts;
    }

    String windows() {
        return windows;
    }

    void offer(String newWindows) {
        this.windows = newWindows;
    }

    int version() {
        return version;
    }

    Set<WorkingHours> hours() {
        return hours;
    }

    Set<WorkingException> exceptions() {
        return exceptions;
    }

    void work(Set<WorkingHours> newHours, Set<WorkingException> newExceptions) {
        hours.clear();
        hours.addAll(newHours);
        exceptions.clear();
        exceptions.addAll(newExceptions);
    }

    void settle(String newName, String newZone, int newWeekStarts, int newFiscalYearStarts) {
        this.name = newName;
        this.zone = newZone;
        this.weekStarts = (short) newWeekStarts;
        this.fiscalYearStarts = (short) newFiscalYearStarts;
    }
}

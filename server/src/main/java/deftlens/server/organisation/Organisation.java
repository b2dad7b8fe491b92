package deftlens.server.organisation;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import jakarta.persistence.Version;

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

    @Version
    private int version;

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

    void settle(String newName, String newZone, int newWeekStarts, int newFiscalYearStarts) {
        this.name = newName;
        this.zone = newZone;
        this.weekStarts = (short) newWeekStarts;
        this.fiscalYearStarts = (short) newFiscalYearStarts;
    }
}

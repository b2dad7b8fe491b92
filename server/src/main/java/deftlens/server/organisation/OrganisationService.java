package deftlens.server.organisation;

import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The organisation's name and calendar. */
@Service
public class OrganisationService {

    private final OrganisationStore store;
    private final Clock clock;

    OrganisationService(OrganisationStore store, Clock clock) {
        this.store = store;
        this.clock = clock;
    }

    /** The organisation's name. */
    @Transactional(readOnly = true)
    public String name() {
        return store.getById(Organisation.ONLY).name();
    }

    /** The organisation's zone. */
    @Transactional(readOnly = true)
    public ZoneId zone() {
        return ZoneId.of(store.getById(Organisation.ONLY).zone());
    }

    /**
     * The reading of one request: its only "now".
     *
     * @param asOf another moment to read at, if the reader chose one
     * @param zone another zone than the organisation's, if a view has its own
     */
    @Transactional(readOnly = true)
    public Reading reading(Optional<Instant> asOf, Optional<ZoneId> zone) {
        Organisation organisation = store.getById(Organisation.ONLY);
        return new Reading(
                asOf.orElseGet(clock::instant),
                zone.orElseGet(() -> ZoneId.of(organisation.zone())),
                DayOfWeek.of(organisation.weekStarts()),
                Month.of(organisation.fiscalYearStarts()),
                WorkingCalendar.standard());
    }

    /** Sets the organisation's name and calendar. */
    @Transactional
    public void settle(String name, ZoneId zone, DayOfWeek weekStarts, Month fiscalYearStarts) {
        store.getById(Organisation.ONLY).settle(name, zone.getId(), weekStarts.getValue(), fiscalYearStarts.getValue());
    }
}

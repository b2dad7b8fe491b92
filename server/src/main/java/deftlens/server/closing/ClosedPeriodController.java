package deftlens.server.closing;

import deftlens.server.people.SignedIn;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import java.time.LocalDate;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** The closed period of a register. */
@RestController
@RequestMapping("/api/registers/{key}/closed-period")
class ClosedPeriodController {

    private final ClosedPeriods periods;

    ClosedPeriodController(ClosedPeriods periods) {
        this.periods = periods;
    }

    /**
     * What is to be closed.
     *
     * @param upTo the last closed day from now on, by the organisation's clock, today at the latest; absent to reopen everything
     * @param was the last closed day as it was seen before; absent where all was open
     * @param reason why, for whoever looks at it later; at most 500 characters
     */
    record ClosingChange(
            Optional<LocalDate> upTo,
            Optional<LocalDate> was,
            @NotNull String reason) {}

    /** What is closed of a register, who may reopen it, and what was closed and reopened before. */
    @GetMapping
    ClosedPeriods.Closed closedPeriod(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return periods.of(key, who);
    }

    /**
     * Closes a register up to a day, or reopens it. From then on no record whose main date lies on that day or before it is made, changed or
     * taken away, by any way: {@code 409} with {@code closed-period}.
     */
    @PutMapping
    ClosedPeriods.Closed close(
            @PathVariable String key, @Valid @RequestBody ClosingChange change, @AuthenticationPrincipal SignedIn who) {
        return periods.close(key, change.upTo(), change.was(), change.reason(), who);
    }
}

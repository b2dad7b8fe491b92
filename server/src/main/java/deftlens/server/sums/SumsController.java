package deftlens.server.sums;

import deftlens.core.sql.KeptSums;
import deftlens.server.lanes.Lane;
import deftlens.server.people.SignedIn;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Which sums are kept of a register while its records are written. */
@RestController
@RequestMapping("/api/registers/{key}/sums")
class SumsController {

    private final SumsService sums;

    SumsController(SumsService sums) {
        this.sums = sums;
    }

    /**
     * Sums that are to be kept.
     *
     * @param keys the keys of the fields that they are told apart by: texts, choices, people, yes or no
     * @param amounts the keys of the numbers that are added up
     */
    record SumsChange(
            @NotNull @Size(max = KeptSums.MOST) List<@NotNull String> keys,
            @NotNull @Size(max = KeptSums.MOST) List<@NotNull String> amounts) {}

    /** What is kept of a register, and what could be. */
    @GetMapping
    SumsService.Sums sums(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return sums.described(key, who);
    }

    /** Keeps sums of a register by the days of its main date from now on. Its records are counted once; nobody writes them meanwhile. */
    @PutMapping
    SumsService.Sums keep(
            @PathVariable String key, @Valid @RequestBody SumsChange change, @AuthenticationPrincipal SignedIn who) {
        return Lane.BACKGROUND.run(() -> sums.keep(key, change.keys(), change.amounts(), who));
    }

    /** Keeps no sums of a register any more. Totals are made of its records. */
    @DeleteMapping
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void drop(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        sums.drop(key, who);
    }
}

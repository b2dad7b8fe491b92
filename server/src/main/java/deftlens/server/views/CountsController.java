package deftlens.server.views;

import deftlens.server.lanes.DepartedClients;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsTexts;
import deftlens.server.platform.ReadsOnly;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** The numbers on the list of views and registers. */
@RestController
class CountsController {

    private final SideCounts counts;

    CountsController(SideCounts counts) {
        this.counts = counts;
    }

    /** Views by their numbers and registers by their keys. */
    record CountsAsked(
            @AsTexts Optional<@Size(max = 200) List<Long>> views,
            Optional<@Size(max = 1_000) List<String>> registers) {}

    /** How many records views and registers have for the reader, as far as that is quick; see {@code later}. */
    @ReadsOnly
    @PostMapping("/api/counts")
    SideCounts.Counts counts(
            @Valid @RequestBody CountsAsked asked, @AuthenticationPrincipal SignedIn who, HttpServletRequest request) {
        return counts.counts(
                asked.views().orElse(List.of()),
                asked.registers().orElse(List.of()),
                who,
                DepartedClients.Line.of(request));
    }
}

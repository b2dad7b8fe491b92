package deftlens.server.views;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsTexts;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Pinned views, starting views, and the views that a changed table touches. */
@RestController
@RequestMapping("/api")
class PinsController {

    private final PinsService pins;
    private final TeamLists lists;

    PinsController(PinsService pins, TeamLists lists) {
        this.pins = pins;
        this.lists = lists;
    }

    /** The views to be pinned, in their order. */
    record Pinned(@NotNull @AsTexts List<Long> views) {}

    /** The reader's pinned views. */
    @GetMapping("/pins")
    List<PinsService.Pin> pins(@AuthenticationPrincipal SignedIn who) {
        return pins.pins(who);
    }

    /** Pins these views and no others. */
    @PutMapping("/pins")
    List<PinsService.Pin> pin(@Valid @RequestBody Pinned wanted, @AuthenticationPrincipal SignedIn who) {
        return pins.pin(wanted.views(), who);
    }

    /**
     * What stands beside a pinned view on the list.
     *
     * @param figure the name of a figure of the view's totals; the number of records when absent
     */
    record Beside(Optional<@Size(max = 100) String> figure) {}

    /** Says what stands beside a pinned view on the reader's list: a figure of its totals, or the number of its records. */
    @PutMapping("/pins/{view}/figure")
    List<PinsService.Pin> tell(
            @PathVariable long view, @Valid @RequestBody Beside beside, @AuthenticationPrincipal SignedIn who) {
        return pins.tell(view, beside.figure(), who);
    }

    /** What the reader's teams have on their lists; of all teams for those who read everything and ask for all. */
    @GetMapping("/team-lists")
    List<TeamLists.TeamList> lists(
            @RequestParam(defaultValue = "false") boolean all, @AuthenticationPrincipal SignedIn who) {
        return lists.lists(who, all);
    }

    /** Says anew which views are on a team's list. */
    @PutMapping("/team-lists/{team}")
    TeamLists.TeamList list(
            @PathVariable long team, @Valid @RequestBody Pinned wanted, @AuthenticationPrincipal SignedIn who) {
        return lists.set(who, team, wanted.views());
    }

    /** The view that the reader begins a register with, if there is one. */
    record Beginning(Optional<PinsService.Pin> view) {}

    /** With which view the reader begins. */
    @GetMapping("/registers/{key}/start")
    Beginning start(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return new Beginning(pins.start(key, who));
    }

    /** With which views the teams begin. */
    @GetMapping("/registers/{key}/starts")
    List<PinsService.Start> starts(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return pins.starts(key, who);
    }

    /** Says anew with which views the teams begin. */
    @PutMapping("/registers/{key}/starts")
    List<PinsService.Start> begin(
            @PathVariable String key,
            @RequestBody List<PinsService.Start> wanted,
            @AuthenticationPrincipal SignedIn who) {
        return pins.begin(key, wanted, who);
    }

    /** How the table behind a register differs from what it was, and which views that touches. */
    @GetMapping("/registers/{key}/shape")
    PinsService.ShapeAnswer shape(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return pins.shape(key, who);
    }
}

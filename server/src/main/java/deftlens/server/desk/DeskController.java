package deftlens.server.desk;

import deftlens.server.administration.SetupService;
import deftlens.server.people.SessionDescriptions;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Admits;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterName;
import deftlens.server.views.PinsService;
import deftlens.server.views.TeamLists;
import deftlens.server.views.ViewUse;
import deftlens.server.views.ViewsService;
import java.util.List;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;

/** What the frame of every page begins with. */
@RestController
class DeskController {

    private final SessionDescriptions sessions;
    private final ViewsService views;
    private final PinsService pins;
    private final TeamLists teamLists;
    private final ViewUse use;
    private final RegisterCatalogue registers;
    private final SetupService setup;

    DeskController(
            SessionDescriptions sessions,
            ViewsService views,
            PinsService pins,
            TeamLists teamLists,
            ViewUse use,
            RegisterCatalogue registers,
            SetupService setup) {
        this.sessions = sessions;
        this.views = views;
        this.pins = pins;
        this.teamLists = teamLists;
        this.use = use;
        this.registers = registers;
        this.setup = setup;
    }

    /**
     * The frame of a page: who is signed in, and what stands on their list. The parts are those of the calls that give each by itself;
     * all but the session are empty as long as the password has to be changed.
     *
     * @param setup the steps of setting up; none for whoever is no administrator
     */
    record Desk(
            SessionDescriptions.Session session,
            List<ViewsService.View> views,
            List<PinsService.Pin> pins,
            List<TeamLists.TeamList> teamLists,
            List<ViewUse.Use> use,
            List<RegisterName> registers,
            List<SetupService.SetupStep> setup) {}

    /** What every page begins with, in one answer. */
    @Admits(beforePasswordChange = true)
    @GetMapping("/api/desk")
    Desk desk(@AuthenticationPrincipal SignedIn who) {
        SessionDescriptions.Session session = sessions.of(who);
        if (session.mustChangePassword()) {
            return new Desk(session, List.of(), List.of(), List.of(), List.of(), List.of(), List.of());
        }
        return new Desk(
                session,
                views.openTo(who),
                pins.pins(who),
                teamLists.lists(who, false),
                use.all(who),
                registers.all(who).stream().map(RegisterName::of).toList(),
                who.administers() ? setup.steps(who) : List.of());
    }
}

package deftlens.server.views;

import deftlens.server.platform.AsText;
import deftlens.server.views.ViewsService.Who;
import java.util.List;
import java.util.Optional;

/**
 * What a change of a register does to one view.
 *
 * @param reliance who leans on it
 * @param criteria its criteria on what changes, in words
 * @param shown whether what changes is shown: its records are put into groups by bands that change, or a calculated field that does is among its
 *     columns, its order, its groups or its figures
 * @param refinements how many readers' own refinements rest on what changes
 * @param moves absent where it could not be counted in time, or where nothing can be counted any more
 * @param breaks why the view would show nothing any more, if it would
 */
record ViewEffect(
        @AsText long view,
        String name,
        Who owner,
        ViewUse.Reliance reliance,
        List<String> criteria,
        boolean shown,
        int refinements,
        Optional<Moves> moves,
        Optional<String> breaks) {

    /** How many records come in, how many go, and how many stay; as whoever asks reads them now. */
    record Moves(long enter, long leave, long both) {}
}

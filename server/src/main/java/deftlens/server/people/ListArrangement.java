package deftlens.server.people;

import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;

/**
 * How a person has the list of views and registers beside their pages. Keys and names that are not there any more mean nothing and do
 * no harm; registers that it does not name stand after those that it does.
 *
 * @param registers keys of registers, the ones to stand first, in their order
 * @param hidden keys of registers that are not listed
 * @param folded the sections of which only the heading is shown: {@code pinned}, {@code mine}, {@code colleagues},
 *     {@code registers}, or {@code team-} and a team's id
 * @param width in CSS pixels
 */
public record ListArrangement(
        @NotNull @Size(max = 2000) List<@NotNull @Size(max = 63) String> registers,
        @NotNull @Size(max = 2000) List<@NotNull @Size(max = 63) String> hidden,
        @NotNull @Size(max = 500) List<@NotNull @Size(max = 63) String> folded,
        @Min(150) @Max(480) int width) {

    /** As it comes, before anybody arranged it. */
    static final ListArrangement USUAL = new ListArrangement(List.of(), List.of(), List.of(), 204);
}

package deftlens.demo;

import java.util.List;

/** The views that the people of the demo world have kept. */
public final class DemoViews {

    /**
     * One view.
     *
     * @param owner the sign-in name of whoever kept it
     * @param order the field it is ordered by, {@code -} before it for descending
     * @param label the word by which it is found beside others
     * @param forEveryone whether it is shared with everyone; otherwise with the quay crews
     */
    public record DemoView(
            String owner,
            String register,
            String name,
            String purpose,
            String statement,
            String order,
            String label,
            boolean forEveryone,
            boolean mayChange) {}

    private DemoViews() {}

    /** All of them. */
    public static List<DemoView> all() {
        return List.of(
                new DemoView(
                        "ines.marlow",
                        "defects",
                        "Overdue at my site",
                        "The morning round: what should have been mended by now, at the reader's own site.",
                        "due before today and status is not in (\"Done\", \"Dropped\") and site is my site",
                        "due",
                        "morning round",
                        false,
                        false),
                new DemoView(
                        "wren.halloway",
                        "defects",
                        "Waiting for parts over a fortnight",
                        "For the weekly call with the suppliers.",
                        "status is \"Waiting for parts\" and reported_at more than 14 days ago",
                        "reported_at",
                        "suppliers",
                        true,
                        true),
                new DemoView(
                        "bram.oake",
                        "defects",
                        "Safety, reported this week",
                        "Read out at the Monday meeting.",
                        "reported_at in this week and (tags has any of (\"Safety\") or severity >= 5)",
                        "-severity",
                        "Monday meeting",
                        false,
                        true),
                new DemoView(
                        "asta.quill",
                        "stays",
                        "Here during a week",
                        "Who is berthed at the reader's site at any time during the week that is asked for.",
                        "stay overlaps {which week = this week} and site is my site",
                        "arrives",
                        "berths",
                        true,
                        false),
                new DemoView(
                        "bram.oake",
                        "stays",
                        "Long stays of larger vessels",
                        "For the berth plan: who has been here longer than agreed.",
                        "length is in bands (\"Coaster\", \"Ship\") and arrives more than {days here = 14} days ago and leaves is empty",
                        "arrives",
                        "berths",
                        true,
                        false),
                new DemoView(
                        "ines.marlow",
                        "stays",
                        "Arrivals outside working hours",
                        "Read with the night crew.",
                        "arrives in last month and arrives outside working hours",
                        "-arrives",
                        "night",
                        true,
                        false),
                new DemoView(
                        "tomas.rell",
                        "dues",
                        "Debtors this quarter, not from stays",
                        "What hit the debtors' account that no berth bill explains.",
                        "account is \"1100 Berth holders\" and posted_at in this quarter and source is not in (\"Stay\", \"Payment\")",
                        "-posted_at",
                        "month end",
                        true,
                        false),
                new DemoView(
                        "tomas.rell",
                        "dues",
                        "By hand, outside working hours",
                        "For the yearly audit: who wrote into the ledger when nobody was at work.",
                        "source is \"By hand\" and posted_at in this fiscal year and posted_at outside working hours",
                        "-posted_at",
                        "audit",
                        true,
                        false),
                new DemoView(
                        "asta.quill",
                        "permits",
                        "To decide at my site",
                        "Read every morning; the oldest first.",
                        "status is in (\"Submitted\", \"Asked back\") and site is my site",
                        "submitted_at",
                        "morning round",
                        true,
                        false),
                new DemoView(
                        "wren.halloway",
                        "moves",
                        "Issued and not returned",
                        "What one site took from the stores and still has.",
                        "kind is \"Issued\" and to_site is {to = \"Lantern Pier\"} and moved_at in this year and returned_at is empty",
                        "-moved_at",
                        "stores",
                        true,
                        false),
                new DemoView(
                        "bram.oake",
                        "water",
                        "Taken next week",
                        "What is berthed or shut at the reader's site at any time next week.",
                        "taken overlaps next week and site is my site",
                        "begins",
                        "berths",
                        true,
                        false));
    }
}

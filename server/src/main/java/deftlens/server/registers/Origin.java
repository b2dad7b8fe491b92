package deftlens.server.registers;

import com.fasterxml.jackson.annotation.JsonProperty;
import java.util.EnumSet;
import java.util.Set;

/** Where the records of a register are, and what follows from that. Whoever wants to know what can be done asks for it by its name. */
public enum Origin {
    /** In a table of our own. */
    OWN(EnumSet.allOf(Capability.class)),
    /** In a table or database view of somebody else's, which is only read. */
    ATTACHED(EnumSet.noneOf(Capability.class)),
    /** In several other registers, read together. */
    COMBINED(EnumSet.noneOf(Capability.class));

    /** What can be done with the records of a register, or is known of them, beside reading them. */
    public enum Capability {
        /** Records are made, changed and brought in from files here. */
        @JsonProperty("records")
        RECORDS,
        /** Its fields are columns of ours: they are added, removed, and get another type. */
        @JsonProperty("fields")
        FIELDS,
        /** Who did what to a record is known. */
        @JsonProperty("trail")
        TRAIL,
        /** How many records there are is kept, and need not be counted. */
        @JsonProperty("counts")
        COUNTS,
        /** Indexes are built for the questions that are put to it. */
        @JsonProperty("indexes")
        INDEXES,
        /** All that is in it went through our rules: no number is beyond numbers, and nobody else changes its table. */
        @JsonProperty("guarded")
        GUARDED
    }

    private final Set<Capability> capabilities;

    Origin(Set<Capability> capabilities) {
        this.capabilities = Set.copyOf(capabilities);
    }

    /** All that can be done, in the order of their names' declaration. */
    public Set<Capability> capabilities() {
        return capabilities.isEmpty() ? EnumSet.noneOf(Capability.class) : EnumSet.copyOf(capabilities);
    }

    /** Whether something can be done, or is known. */
    public boolean can(Capability capability) {
        return capabilities.contains(capability);
    }
}

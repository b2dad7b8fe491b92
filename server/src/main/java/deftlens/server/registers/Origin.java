package deftlens.server.registers;

/** Where the records of a register are. */
public enum Origin {
    /** In a table of our own. */
    OWN,
    /** In a table or database view of somebody else's, which is only read. */
    ATTACHED,
    /** In several other registers, read together. */
    COMBINED
}

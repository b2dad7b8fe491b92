package deftlens.server.registers;

/** Said inside of the transaction that changed what the catalogue says of a register: its fields, or their known values. */
public record RegisterChanged(String register) {}

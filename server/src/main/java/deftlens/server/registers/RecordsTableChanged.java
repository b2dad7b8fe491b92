package deftlens.server.registers;

/** A register's table has other columns, or others stand for its fields; told in the transaction that changes it. */
public record RecordsTableChanged(String register) {}

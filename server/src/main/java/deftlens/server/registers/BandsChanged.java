package deftlens.server.registers;

import deftlens.server.people.SignedIn;
import java.util.List;

/**
 * Said inside of the transaction that changed bands of a register, so that what rests on them is carried along.
 *
 * @param before the register as it was, with all its fields
 */
public record BandsChanged(RegisterForReader before, List<BandChange> changes, SignedIn by) {}

/** Sums that are kept of registers while records are written, so that totals of very many records come at once. */
package deftlens.server.sums;

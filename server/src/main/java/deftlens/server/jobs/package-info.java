/**
 * What is done later or takes long: rows in the database that some server takes, once, and that any server can tell of and stop.
 *
 * <p>A new kind of work is one bean: a {@link deftlens.server.jobs.JobKind} where somebody asks for it, a
 * {@link deftlens.server.platform.RecurringJob} where the clock does. Picking, heartbeats, and noticing that a server is gone is db-scheduler's
 * business.
 */
package deftlens.server.jobs;

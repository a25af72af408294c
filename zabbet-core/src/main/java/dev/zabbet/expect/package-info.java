/**
 * What should be stored, and what should have changed.
 *
 * <p>The entry types are {@link dev.zabbet.expect.TableExpectation} and
 * {@link dev.zabbet.expect.FootprintExpectation}, got from a stage and a footprint; matchers are made by
 * {@link dev.zabbet.expect.Expected}. The one rule: an expectation that fails says which row, which column, what is
 * stored and what was expected, and never more rows than differ.
 *
 * <pre>{@code
 * import static dev.zabbet.expect.Expected.notNull;
 * import static dev.zabbet.expect.Expected.row;
 *
 * stage.expect("stay").where("hut_id", hut.id()).holdsOnly(
 *         row("status", "CANCELLED").with("cancelled_at", notNull()),
 *         row("status", "CONFIRMED").with("cancelled_at", null));
 * footprint.expect()
 *         .changed("stay", stay.id(), row("status", "CANCELLED"))
 *         .nothingElse();
 * }</pre>
 */
@NullMarked
package dev.zabbet.expect;

import org.jspecify.annotations.NullMarked;

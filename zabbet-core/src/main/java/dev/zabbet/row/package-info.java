/**
 * Rows as values: the columns of one row and what they hold.
 *
 * <p>The entry type is {@link dev.zabbet.row.Row}. Its one rule: a row is immutable; {@code with} returns another.
 *
 * <pre>{@code
 * import dev.zabbet.row.Row;
 *
 * Row row = Row.row("status", "CANCELLED").with("nights", 2);
 * String status = row.get("status", String.class);
 * Row longer = row.with("nights", 3); // row itself still says 2
 * }</pre>
 */
@NullMarked
package dev.zabbet.row;

import org.jspecify.annotations.NullMarked;

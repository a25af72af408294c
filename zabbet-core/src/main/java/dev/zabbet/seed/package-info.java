/**
 * Seeds: rows with labels, ready to be stored together, from code or from a row document.
 *
 * <p>The entry type is {@link dev.zabbet.seed.Seed}. The one rule: all that is wrong with a seed is said before anything
 * is stored, each with its place.
 *
 * <pre>{@code
 * import static dev.zabbet.expect.Expected.row;
 * import dev.zabbet.row.Row;
 * import dev.zabbet.seed.Seed;
 *
 * Seed seed = Seed.empty()
 *         .with("region", "valdrun", row("name", "Val Drun").with("country", "CH"))
 *         .with("hut", "edelgrat", row("name", "Edelgrat").with("region_id", Seed.ref("valdrun")))
 *         .repeat(20, "stay", row("hut_id", Seed.ref("edelgrat")));
 * Row edelgrat = stage.load(seed).row("edelgrat");
 * }</pre>
 */
@NullMarked
package dev.zabbet.seed;

import org.jspecify.annotations.NullMarked;

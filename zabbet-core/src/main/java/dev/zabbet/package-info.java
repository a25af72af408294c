/**
 * The front door: a stage, where one test's rows live, and the footprint of what the code under test did to them.
 *
 * <p>The entry type is {@link dev.zabbet.Stage}. Its one rule: two stages never meet; clock, variation and keys belong
 * to the stage.
 *
 * <pre>{@code
 * import static dev.zabbet.expect.Expected.row;
 * import dev.zabbet.Footprint;
 * import dev.zabbet.Memory;
 * import dev.zabbet.Stage;
 * import dev.zabbet.factory.Factory;
 * import dev.zabbet.schema.Schema;
 *
 * Stage stage = Memory.stage(Schema.of(Hut.class, Stay.class));
 * Stay stay = stage.add(Factory.forType(Stay.class));
 * Footprint footprint = stage.act(() -> desk.cancel(stay.id()));
 * footprint.expect()
 *         .changed("stay", stay.id(), row("status", "CANCELLED"))
 *         .nothingElse();
 * stage.expect("stay").count(1);
 * }</pre>
 */
@NullMarked
package dev.zabbet;

import org.jspecify.annotations.NullMarked;

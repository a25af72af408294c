/**
 * Working implementations of an application's own data-access interfaces, over rows in memory.
 *
 * <p>The entry type is {@code Stage.fake}. The one rule: a method that is not understood is named when the fake is made,
 * never answered by null when it is called.
 *
 * <pre>{@code
 * import dev.zabbet.Memory;
 * import dev.zabbet.Stage;
 * import dev.zabbet.factory.Factory;
 * import dev.zabbet.schema.Schema;
 *
 * Stage stage = Memory.stage(Schema.of(Hut.class, Guest.class, Stay.class));
 * StayRepository stays = stage.fake(StayRepository.class);
 * Stay saved = stays.save(stage.build(Factory.forType(Stay.class)));
 * stage.expect(Stay.class).holds(saved);
 * }</pre>
 */
@NullMarked
package dev.zabbet.fake;

import org.jspecify.annotations.NullMarked;

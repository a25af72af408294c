/**
 * How rows are made: a factory states what the test is about, and the schema supplies the rest.
 *
 * <p>The entry type is {@link dev.zabbet.factory.Factory}. Its one rule: a factory never changes; every {@code with…}
 * returns another, so a variant is a variable.
 *
 * <pre>{@code
 * import dev.zabbet.factory.Factory;
 * import java.util.List;
 *
 * Factory<Stay> stays = Factory.forType(Stay.class)
 *         .with(Stay::nights, 2)
 *         .invent(Stay::price, values -> values.money(20, 90));
 * Factory<Stay> cancelled = stays.with(Stay::status, Status.CANCELLED);
 * Stay stay = stage.add(cancelled);
 * List<Stay> two = stage.add(2, stays.inTurn(Stay::nights, 1, 7));
 * }</pre>
 */
@NullMarked
package dev.zabbet.factory;

import org.jspecify.annotations.NullMarked;

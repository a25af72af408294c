/**
 * Where invented values come from.
 *
 * <p>The entry type is {@link dev.zabbet.value.Values}, which a factory's functions are given. The one rule: a value depends
 * on the variation, the table, the row's ordinal and the column, and on nothing else.
 *
 * <pre>{@code
 * import dev.zabbet.factory.Factory;
 *
 * Factory<Stay> stays = Factory.forType(Stay.class)
 *         .invent(Stay::nights, values -> values.between(1, 14))
 *         .invent(Stay::price, values -> values.money(20, 90));
 * }</pre>
 */
@NullMarked
package dev.zabbet.value;

import org.jspecify.annotations.NullMarked;

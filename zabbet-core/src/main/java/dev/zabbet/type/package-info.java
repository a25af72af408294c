/**
 * The values that a column can hold, and the names of properties of Java types.
 *
 * <p>The entry types are {@link dev.zabbet.type.Kind} and {@link dev.zabbet.type.Property}. The one rule: a value has one form
 * in memory for each kind, whichever store it comes from.
 *
 * <pre>{@code
 * import dev.zabbet.type.Kind;
 * import dev.zabbet.type.Property;
 *
 * Kind kind = stage.schema().require("stay").requireColumn("arrival").type().kind(); // DATE: a LocalDate
 * Property<Stay, Integer> nights = Stay::nights;
 * }</pre>
 */
@NullMarked
package dev.zabbet.type;

import org.jspecify.annotations.NullMarked;

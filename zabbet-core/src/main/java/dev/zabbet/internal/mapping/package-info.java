/** Which column a property is stored in, and which values fit a column. */
@NullMarked
package dev.zabbet.internal.mapping;

import org.jspecify.annotations.NullMarked;

/** Which engine a connection leads to. */
@NullMarked
package dev.zabbet.jdbc.internal.engine;

import org.jspecify.annotations.NullMarked;

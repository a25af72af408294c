/** Wording shared by the messages of several packages. */
@NullMarked
package dev.zabbet.internal.text;

import org.jspecify.annotations.NullMarked;

/** Documents that columns hold: paths into them, and how two of them differ. */
@NullMarked
package dev.zabbet.internal.document;

import org.jspecify.annotations.NullMarked;

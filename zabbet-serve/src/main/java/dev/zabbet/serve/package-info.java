/** Stages over HTTP. */
@NullMarked
package dev.zabbet.serve;

import org.jspecify.annotations.NullMarked;

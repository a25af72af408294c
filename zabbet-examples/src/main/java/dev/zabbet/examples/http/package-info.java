/** The huts application behind an HTTP API, with a page; it knows nothing of Zabbet. */
@NullMarked
package dev.zabbet.examples.http;

import org.jspecify.annotations.NullMarked;

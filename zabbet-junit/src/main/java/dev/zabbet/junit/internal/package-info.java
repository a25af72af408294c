/** What the annotations ask for: extensions, and how a framework takes part that runs tests itself. */
@NullMarked
package dev.zabbet.junit.internal;

import org.jspecify.annotations.NullMarked;

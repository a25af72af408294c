/** Seeds that go in through an application's own HTTP API. */
@NullMarked
package dev.zabbet.serve.internal.deliver;

import org.jspecify.annotations.NullMarked;

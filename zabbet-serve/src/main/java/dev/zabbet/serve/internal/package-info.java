/** The server of stages: requests let in or refused, stages with a thread each, and what is done with them. */
@NullMarked
package dev.zabbet.serve.internal;

import org.jspecify.annotations.NullMarked;

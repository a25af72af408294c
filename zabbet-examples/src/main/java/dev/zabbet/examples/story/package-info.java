/**
 * The story that {@code zabbet demo} tells: arrange, act and assert on the alpine huts, on an embedded database.
 *
 * <pre>{@code
 * HutsStory.tell(teller); // the teller prints, or whatever else it likes to do
 * }</pre>
 */
@NullMarked
package dev.zabbet.examples.story;

import org.jspecify.annotations.NullMarked;

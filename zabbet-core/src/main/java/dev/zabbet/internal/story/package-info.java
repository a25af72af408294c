/**
 * What each test did with its stage and looked at, and what it would have missed.
 *
 * <p>A {@link dev.zabbet.internal.story.Story} belongs to one run of one test; whoever runs tests begins and ends it, and {@link
 * dev.zabbet.internal.story.Stories} finds it for the parts of a stage, which tell it what happens. Where no story is told,
 * nothing is kept and nothing is asked again.
 */
@NullMarked
package dev.zabbet.internal.story;

import org.jspecify.annotations.NullMarked;

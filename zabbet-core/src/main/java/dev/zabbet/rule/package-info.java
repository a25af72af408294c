/**
 * Rules that make a fake, or a real object behind one, misbehave or answer as a test wants, and expectations on its calls.
 *
 * <p>The entry type is {@link dev.zabbet.rule.Rules}. The one rule: a method is named by a reference, so that a rule follows
 * when the method is renamed.
 *
 * <pre>{@code
 * import dev.zabbet.rule.Failure;
 * import dev.zabbet.rule.Rules;
 *
 * StayRepository stays = stage.fake(StayRepository.class);
 * Rules<StayRepository> rules = stage.rules(stays);
 * rules.on(StayRepository::save).call(2).fails(new IllegalStateException(Failure.diskFull()));
 * rules.calls(StayRepository::save).exactly(1);
 * }</pre>
 */
@NullMarked
package dev.zabbet.rule;

import org.jspecify.annotations.NullMarked;

package dev.zabbet.internal.fake;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The rules of one method; of those that are for a call, the one made last counts. Thread-safe. */
public final class RuleBook {
    private final List<Rule> rules = new ArrayList<>();
    private final Map<Rule, Integer> seen = new HashMap<>();

    public synchronized void add(Rule rule) {
        rules.add(rule);
    }

    /** Returns the rule for the next call; null if there is none. */
    synchronized @Nullable Rule next(@Nullable Object[] arguments) {
        Rule found = null;
        for (Rule rule : rules) {
            if (rule.when().match(arguments)) {
                int call = seen.merge(rule, 1, Integer::sum);
                found = rule.isFor(call) ? rule : found;
            }
        }
        return found;
    }
}

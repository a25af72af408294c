package dev.zabbet.spring.internal.query;

import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What the names in a query stand for at one point of its evaluation.
 *
 * @param bound objects or rows by aliases in lower case; null for the side of an outer join that found nothing
 * @param outer where the query around this one is; null for the outermost
 * @param group the scopes that are aggregated here; this one alone where there is no group
 * @param call the call that is being answered
 */
public record Scope(
        Map<String, @Nullable Object> bound, @Nullable Scope outer, List<Scope> group, Call call) {
    /** Returns the scope in which a query around which there is no other begins. */
    public static Scope of(Call call) {
        return new Scope(Map.of(), null, List.of(), call);
    }

    /** Returns the scope in which a query inside this one begins. */
    public Scope inner() {
        return new Scope(Map.of(), this, List.of(), call);
    }

    /** Returns a scope with one more name. */
    public Scope with(String alias, @Nullable Object value) {
        Map<String, @Nullable Object> more = new HashMap<>(bound);
        more.put(alias.toLowerCase(Locale.ROOT), value);
        return new Scope(more, outer, group, call);
    }

    /** Returns the scope of a group; the names stand for what they do in its first member. */
    static Scope ofGroup(List<Scope> members, Scope around) {
        Map<String, @Nullable Object> bound = members.isEmpty() ? Map.of() : members.get(0).bound;
        return new Scope(bound, around.outer, members, around.call);
    }

    /** Returns what a name stands for, here or in a query around this one. */
    public @Nullable Object get(String alias) {
        Scope at = this;
        while (at != null && !at.bound.containsKey(alias)) {
            at = at.outer;
        }
        return at == null ? null : at.bound.get(alias);
    }
}

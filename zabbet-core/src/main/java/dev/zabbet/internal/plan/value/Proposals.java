package dev.zabbet.internal.plan.value;

import java.util.List;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * Values to try for a column, the least unusual first. The first one does in most rows, so that the others are worked
 * out when they are asked for. Not thread-safe.
 */
public final class Proposals {
    private final @Nullable Object first;
    private final boolean firstFits;
    private final Supplier<List<@Nullable Object>> all;
    private @Nullable List<@Nullable Object> known;

    /**
     * Makes proposals.
     *
     * @param firstFits whether {@code first} is the first of {@code all}
     */
    public Proposals(@Nullable Object first, boolean firstFits, Supplier<List<@Nullable Object>> all) {
        this.first = first;
        this.firstFits = firstFits;
        this.all = all;
    }

    public boolean has(int index) {
        return (index == 0 && firstFits) || index < all().size();
    }

    public @Nullable Object get(int index) {
        return index == 0 && firstFits ? first : all().get(index);
    }

    public List<@Nullable Object> all() {
        List<@Nullable Object> list = known;
        if (list == null) {
            list = all.get();
            known = list;
        }
        return list;
    }
}

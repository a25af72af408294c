package dev.zabbet.jdbc.internal.dialect;

import java.util.HashSet;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Pattern;

/**
 * Turns exact names of the database into those that a person writes: what the database folded to upper case is shown in
 * lower case; where two names would become one, the one that needs quotes keeps them.
 */
public final class Naming {
    private static final Pattern FOLDED = Pattern.compile("[A-Z_][A-Z0-9_$]*");

    private final boolean folding;
    private final Set<String> taken = new HashSet<>();

    /** @param folding whether the database folds names to upper case */
    public Naming(boolean folding) {
        this.folding = folding;
    }

    /** Returns the name to show for an exact name, different from those returned before. */
    public String shown(String exact) {
        boolean fold = folding && FOLDED.matcher(exact).matches();
        String shown = fold ? exact.toLowerCase(Locale.ROOT) : exact;
        if (!taken.add(shown)) {
            shown = '"' + exact + '"';
            taken.add(shown);
        }
        return shown;
    }
}

package dev.zabbet.error;

import dev.zabbet.internal.text.Nearest;
import dev.zabbet.internal.text.Words;
import java.util.Collection;
import java.util.List;
import java.util.Optional;

/** A table, column, property or label was named that does not exist; the nearest known name is suggested. */
public final class UnknownNameException extends ZabbetException {
    private static final long serialVersionUID = 1L;

    private static final int MOST_LISTED = 40;
    private static final int A_FEW = 5;

    private final String name;
    private final transient List<String> known;

    /**
     * @param what what kind of thing was named and where, for example {@code "column of table stay"}
     * @param name the name that was not found
     * @param known the names that exist there, in their own order
     */
    public UnknownNameException(String what, String name, Collection<String> known) {
        super(message(what, name, known));
        this.name = name;
        this.known = List.copyOf(known);
    }

    /** {@return the name that was not found} */
    public String name() {
        return name;
    }

    /** {@return the names that exist, in their own order; empty after serialisation} */
    public List<String> known() {
        return known == null ? List.of() : known;
    }

    /** {@return the known name that is nearest to the unknown one, if one is near enough to be meant} */
    public Optional<String> nearest() {
        return Nearest.to(name, known());
    }

    private static String message(String what, String name, Collection<String> known) {
        String suggestion = Nearest.to(name, known)
                .map(near -> " Did you mean '" + near + "'?")
                .orElse("");
        String list;
        if (known.isEmpty()) {
            list = "There is none at all.";
        } else if (known.size() <= MOST_LISTED) {
            list = "Known: " + String.join(", ", known) + ".";
        } else {
            list = "There are " + known.size() + "; the nearest: " + String.join(", ", Nearest.to(name, known, A_FEW))
                    + ".";
        }
        return "There is no " + what + " named '" + Words.cut(name, 200) + "'." + suggestion + " " + list;
    }
}

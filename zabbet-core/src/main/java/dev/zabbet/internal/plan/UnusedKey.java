package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.value.TextMaker;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.UUID;

/** Keys that are hardly ever in use. */
public final class UnusedKey {
    private UnusedKey() {}

    /**
     * Returns a key of a type.
     *
     * @param attempt from 0; each gives another
     * @throws ZabbetException if keys are hardly ever of the type
     */
    public static Object of(DataType type, int attempt) {
        Object key = Flaws.Nowhere.key(type);
        if (key instanceof Long number) {
            return number - attempt;
        }
        if (key instanceof UUID uuid) {
            return new UUID(uuid.getMostSignificantBits(), uuid.getLeastSignificantBits() + attempt);
        }
        if (key instanceof String text && attempt > 0) {
            String number = String.valueOf(attempt);
            return type.kind() == Kind.FIXED_TEXT || text.length() < 8
                    ? TextMaker.code(attempt, Math.max(1, text.length()))
                    : text.substring(0, text.length() - number.length()) + number;
        }
        if (key == null || attempt > 0) {
            throw new ZabbetException("No unused key of type " + type.sqlName() + " can be made.");
        }
        return key;
    }
}

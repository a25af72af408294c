package dev.zabbet.junit.internal;

import dev.zabbet.error.ZabbetException;
import org.junit.jupiter.api.extension.Extension;

/**
 * Says in words that {@link dev.zabbet.junit.EveryStage} and {@link dev.zabbet.junit.Counterproof} need a newer JUnit. JUnit makes extensions in the order in which
 * they are declared, so that this one speaks before the next, whose interface an older JUnit does not have, fails to load.
 */
public final class ClassTemplatesNeeded implements Extension {
    private static final String ADDED_IN_5_13 =
            "org.junit.jupiter.api.extension.ClassTemplateInvocationContextProvider";

    public ClassTemplatesNeeded() {
        try {
            Class.forName(ADDED_IN_5_13, false, Extension.class.getClassLoader());
        } catch (ClassNotFoundException e) {
            throw new ZabbetException(
                    "@EveryStage and @Counterproof need JUnit 5.13 or later" + found()
                            + ". Take a newer JUnit, or @Staged, which runs the class on one stage, and the property"
                            + " zabbet.counterproof.",
                    e);
        }
    }

    private static String found() {
        String version = Extension.class.getPackage().getImplementationVersion();
        return version == null || !version.startsWith("5.") ? "" : "; this is " + version;
    }
}

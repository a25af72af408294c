package dev.zabbet.internal.story;

import java.util.Optional;

/**
 * A line of a test.
 *
 * @param className the class as Java names it in class files, {@code dev.huts.StayDeskTest$Cancelling}
 * @param file the file's name without a folder; empty if the class file does not tell
 * @param line from 1; 0 or less if the class file does not tell
 */
public record SourceLine(String className, String file, int line) {
    private static final StackWalker WALKER = StackWalker.getInstance(StackWalker.Option.RETAIN_CLASS_REFERENCE);

    /** Returns the innermost line of this thread that stands in a test class, in one around it or in one that it extends. */
    static Optional<SourceLine> here(Class<?> testClass) {
        Class<?> whole = outermost(testClass);
        return WALKER.walk(frames -> frames.filter(frame -> {
                    Class<?> at = outermost(frame.getDeclaringClass());
                    return at == whole || (at != Object.class && at.isAssignableFrom(testClass));
                })
                .findFirst()
                .map(frame -> new SourceLine(
                        frame.getClassName(),
                        frame.getFileName() == null ? "" : frame.getFileName(),
                        frame.getLineNumber())));
    }

    private static Class<?> outermost(Class<?> type) {
        Class<?> at = type;
        while (at.getEnclosingClass() != null) {
            at = at.getEnclosingClass();
        }
        return at;
    }

    /** Returns the file and the line: {@code StayDeskTest.java:41}. */
    @Override
    public String toString() {
        return file.isEmpty() ? className : file + ":" + line;
    }
}

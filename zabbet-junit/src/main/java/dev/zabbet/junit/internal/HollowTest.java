package dev.zabbet.junit.internal;

import dev.zabbet.internal.report.Report;
import dev.zabbet.internal.story.LookedAt;
import dev.zabbet.internal.story.RecordedAct;
import dev.zabbet.internal.story.Story;
import dev.zabbet.store.Change;
import java.util.List;
import org.opentest4j.AssertionFailedError;

/** What is said of a test that passes although nothing of what its acts stored is left. */
final class HollowTest {
    private static final int MOST_SHOWN = 5;

    private HollowTest() {}

    static AssertionError failure(Story story) {
        AssertionFailedError failure = new AssertionFailedError(text(story));
        failure.setStackTrace(new StackTraceElement[0]); // the place is in the text, and this one says nothing
        return failure;
    }

    static String text(Story story) {
        StringBuilder text =
                new StringBuilder("This test is hollow: it passes although what its acts store is taken away.");
        for (RecordedAct act : story.storing()) {
            List<Change> changes = act.changes();
            text.append("\nThe ").append(Verdict.name(act)).append(" stored:");
            for (Change change : changes.subList(0, Math.min(changes.size(), MOST_SHOWN))) {
                text.append("\n  ").append(Report.describe(change));
            }
            more(text, changes.size());
        }
        List<LookedAt> looks = story.looks();
        boolean asked = story.storing().stream().anyMatch(RecordedAct::isValueAsked);
        if (looks.isEmpty()) {
            text.append(
                    asked
                            ? "\nThe test looked at the value that the act returned, and at nothing that is stored."
                            : "\nThe test looked at nothing that is stored.");
        } else {
            text.append("\nThe test looked at:");
            for (LookedAt look : looks.subList(0, Math.min(looks.size(), MOST_SHOWN))) {
                text.append("\n  ").append(look.text());
                look.line().ifPresent(line -> text.append(" (").append(line).append(')'));
            }
            more(text, looks.size());
        }
        return text.append("\nExpect what should be stored; if only the result counts, say so: @ResultOnly(\"…\").")
                .toString();
    }

    private static void more(StringBuilder text, int all) {
        if (all > MOST_SHOWN) {
            text.append("\n  … and ").append(all - MOST_SHOWN).append(" more");
        }
    }
}

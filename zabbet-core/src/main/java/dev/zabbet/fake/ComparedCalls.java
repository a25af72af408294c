package dev.zabbet.fake;

import java.util.List;

/**
 * What {@code SameBehaviour.check} has driven.
 *
 * @param calls how many calls
 * @param refused how many of them failed, on both sides
 * @param leftOut methods that could not be called, with the reason
 */
public record ComparedCalls(int calls, int refused, List<String> leftOut) {
    /**
     * Copies the list.
     *
     * @param calls how many calls
     * @param refused how many of them failed, on both sides
     * @param leftOut methods that could not be called, with the reason
     */
    public ComparedCalls {
        leftOut = List.copyOf(leftOut);
    }
}

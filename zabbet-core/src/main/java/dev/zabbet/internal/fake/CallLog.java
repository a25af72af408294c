package dev.zabbet.internal.fake;

import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.store.Store;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The calls that all fakes of a stage have received, in order. Thread-safe. */
public final class CallLog {
    private static final int MOST = 10_000; // of one fake; then the older half is let go

    private long order; // guarded by this

    private final @Nullable Store store;

    /**
     * An empty log; a stage has one.
     *
     * @param store the store of the stage; null if there is none
     */
    public CallLog(@Nullable Store store) {
        this.store = store;
    }

    /** Returns the story that is told of the stage; null if none is. */
    @Nullable
    Story story() {
        return store == null ? null : Stories.of(store);
    }

    /** The calls of one fake. */
    public static final class Of {
        private final CallLog all;
        private final List<RecordedCall> calls = new ArrayList<>();
        private long letGo;

        Of(CallLog all) {
            this.all = all;
        }

        /** Returns the story that is told of the fake's stage; null if none is. */
        public @Nullable Story story() {
            return all.story();
        }

        RecordedCall begin(Method method, @Nullable Object[] arguments) {
            RecordedCall call = new RecordedCall(method, arguments);
            synchronized (all) {
                call.order = ++all.order;
                if (calls.size() >= MOST) {
                    calls.subList(0, MOST / 2).clear();
                    letGo += MOST / 2;
                }
                calls.add(call);
            }
            return call;
        }

        public List<RecordedCall> calls() {
            synchronized (all) {
                return List.copyOf(calls);
            }
        }

        public long letGo() {
            synchronized (all) {
                return letGo;
            }
        }

        void clear() {
            synchronized (all) {
                calls.clear();
                letGo = 0;
            }
        }
    }
}

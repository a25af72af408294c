package dev.zabbet.internal.fake;

import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The calls that all fakes of a stage have received, in order. Thread-safe. */
public final class CallLog {
    private static final int MOST = 10_000; // of one fake; then the older half is let go

    private long order; // guarded by this

    /** An empty log; a stage has one. */
    public CallLog() {}

    /** The calls of one fake. */
    public static final class Of {
        private final CallLog all;
        private final List<RecordedCall> calls = new ArrayList<>();
        private long letGo;

        Of(CallLog all) {
            this.all = all;
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

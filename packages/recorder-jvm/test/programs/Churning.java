import java.lang.reflect.InvocationHandler;
import java.lang.reflect.Proxy;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Supplier;

/** Threads, classes and objects that come and go: `java Churning MILLISECONDS`. Prints `ready` and, at its end, `done`. */
public class Churning {
    interface Gate { Object open(); }

    /** Loads one class anew, so that its code and its method ids are unloaded with the loader. */
    static final class Loader extends ClassLoader {
        private final byte[] code;
        Loader(byte[] code) {
            super(Churning.class.getClassLoader());
            this.code = code;
        }
        Class<?> load(String name) { return defineClass(name, code, 0, code.length); }
    }

    public static final class Loaded implements Supplier<Object> {
        @Override public Object get() {
            List<int[]> made = new ArrayList<>();
            for (int at = 0; at < 200; at++) made.add(new int[at]);
            return made;
        }
    }

    static volatile Object kept;

    public static void main(String[] args) throws Exception {
        long until = System.nanoTime() + Long.parseLong(args[0]) * 1_000_000L;
        byte[] code = Churning.class.getResourceAsStream("Churning$Loaded.class").readAllBytes();
        AtomicLong rounds = new AtomicLong();
        ExecutorService pool = Executors.newFixedThreadPool(4);
        for (int worker = 0; worker < 4; worker++) pool.submit(() -> {
            while (System.nanoTime() < until) {
                rounds.incrementAndGet();
                deep(60 + (int) (rounds.get() % 300));
            }
            return null;
        });
        System.out.println("ready");
        for (int round = 0; System.nanoTime() < until; round++) {
            Thread short_ = new Thread(() -> kept = new StringBuilder("tide ").append(System.nanoTime()).toString(), "short-" + round);
            short_.start();
            Class<?> loaded = new Loader(code).load("Churning$Loaded");
            kept = ((Supplier<?>) loaded.getDeclaredConstructor().newInstance()).get();
            InvocationHandler handler = (proxy, method, given) -> new long[32];
            kept = ((Gate) Proxy.newProxyInstance(Churning.class.getClassLoader(), new Class<?>[] { Gate.class }, handler)).open();
            short_.join();
            if (round % 50 == 0) System.gc();
        }
        pool.shutdown();
        pool.awaitTermination(10, java.util.concurrent.TimeUnit.SECONDS);
        System.out.println("done");
    }

    static Object deep(int depth) {
        if (depth == 0) return new byte[2048];
        Object[] held = new Object[] { deep(depth - 1) };
        return held[0];
    }
}

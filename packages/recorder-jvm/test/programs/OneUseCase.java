import briskheron.Births;
import java.util.ArrayList;

/** Has births told while one use case runs, and not after; what it kept is let go later. Then it starts over. */
public class OneUseCase {
    static final ArrayList<int[]> kept = new ArrayList<>();

    static void useCase() {
        for (int n = 0; n < 100; n++) kept.add(new int[400]);
    }

    static void unwatched() {
        for (int n = 0; n < 100; n++) kept.add(new int[400]);
    }

    public static void main(String[] args) throws Exception {
        for (int step = 1; step <= 120; step++) {
            if (step <= 20) useCase();
            if (step == 20) Births.stop();
            if (step > 20 && step <= 60) unwatched();
            // In three parts, each with a collection: on a busy machine the recorder's own ones are seldom.
            if (step == 40 || step == 55 || step == 70) {
                kept.subList(0, step == 40 ? 900 : 50).clear();
                System.gc();
            }
            if (step == 60) Births.start();
            if (step > 60 && step <= 80) useCase();
            if (step == 80) Births.startOver();
            if (step > 80) useCase();
            Thread.sleep(50);
        }
    }
}

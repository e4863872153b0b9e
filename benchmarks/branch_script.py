"""What the branch report does, as a plain script: `branch_script.py BRANCH BUDGET FOLDER`."""

import sys
import matplotlib

matplotlib.use("svg")
import matplotlib.pyplot as plt
import numpy as np
import pandas as pd

branch, budget, folder = sys.argv[1], float(sys.argv[2]), sys.argv[3]
volumes = pd.read_csv("data/volumes.csv")
climate = pd.read_csv("data/climate.csv", parse_dates=["day"])
volumes["brittle"] = volumes.folds < 10
everywhere = volumes.groupby("paper").agg(
    Volumes=("folds", "size"), pH=("ph", "mean"), Folds=("folds", "median"), Brittle=("brittle", "mean")
)
edges = np.geomspace(1, volumes.folds.max(), 25)
ink, rust, teal, sand = "#2d3a45", "#a8482d", "#2f7f86", "#c49a45"
plt.rcParams.update({"font.size": 9, "axes.spines.top": False, "axes.spines.right": False})


def design(books):
    papers = [(books.paper == paper).to_numpy(float) for paper in everywhere.index]
    return np.column_stack([*papers, books.ph, books.loans / 10, (2026 - books.decade) / 100])


known = volumes.dropna(subset="ph")
predictors, log_folds = design(known), np.log(known.folds.to_numpy())
generator = np.random.default_rng(1)
fits = np.array(
    [
        np.linalg.lstsq(predictors[picked], log_folds[picked], rcond=None)[0]
        for picked in generator.integers(0, len(known), (2000, len(known)))
    ]
)
own = (known.branch == branch).to_numpy()
gaps = log_folds[own][:, None] - predictors[own] @ fits.T
picked = generator.integers(0, len(gaps), gaps.shape)
print(np.exp(np.percentile(np.take_along_axis(gaps, picked, 0).mean(0), [2.5, 50, 97.5])))
here = volumes[volumes.branch == branch]
rooms = climate[climate.branch == branch]
damp_days = int((rooms.humidity > 60).sum())
kinds = [kind for kind in ["rag", "wood pulp", "coated", "alkaline"] if (here.paper == kind).any()]
wanted = here[here.repair_cost > 0].sort_values(["repair_cost", "shelfmark"], ascending=[True, True])
spent = wanted.repair_cost.cumsum()
within = int((spent <= budget).sum())
print(len(here), here.brittle.mean(), damp_days, wanted.repair_cost.sum(), within)
condition = here.groupby("paper").agg(
    Volumes=("folds", "size"), pH=("ph", "mean"), Folds=("folds", "median"), Brittle=("brittle", "mean")
)
condition["There"] = everywhere.Brittle
print(condition.loc[kinds])
fig, ax = plt.subplots(layout="constrained", figsize=(16 / 2.54, 4.8 / 2.54))
mean = climate.groupby("day").humidity.mean().rolling(7, center=True).mean()
ax.plot(mean.index, mean, color="#999", linewidth=1, label="all branches")
ax.plot(rooms.day, rooms.humidity.rolling(7, center=True).mean(), color=rust, label=branch)
ax.axhline(60, color=ink, linewidth=0.8, linestyle=":")
ax.set(ylabel="Relative humidity in %")
ax.margins(y=0.18)
ax.legend(frameon=False, loc="upper left", ncols=2)
fig.savefig(f"{folder}/{branch}-climate.svg")
plt.close(fig)
for kind in kinds:
    of_kind = here[here.paper == kind]
    weak = of_kind.sort_values(["folds", "shelfmark"]).head(5)
    print(kind, len(of_kind), of_kind.decade.min(), of_kind.folds.median())
    fig, ax = plt.subplots(layout="constrained", figsize=(12 / 2.54, 3.5 / 2.54))
    ax.hist(volumes.folds[volumes.paper == kind], edges, color="#ddd", density=True, label="library")
    ax.hist(of_kind.folds, edges, histtype="step", color=teal, linewidth=1.4, density=True, label=branch)
    ax.axvline(10, color=rust, linewidth=0.8, linestyle=":")
    ax.set(xscale="log", xlabel="Double folds (log scale)", yticks=[])
    ax.set_xticks([1, 3, 10, 30, 100], labels=[1, 3, 10, 30, 100])
    ax.set_xticks([], minor=True)
    ax.spines.left.set_visible(False)
    ax.legend(frameon=False, loc="upper right")
    fig.savefig(f"{folder}/{branch}-{kind}.svg")
    plt.close(fig)
    print(weak.set_index("shelfmark")[["decade", "ph", "loans", "folds"]])
plan = wanted.assign(when=np.where(spent <= budget, "next year", "later")).groupby(["paper", "when"]).repair_cost
plan = (
    plan.agg(Volumes="size", Marks="sum")
    .unstack("when", fill_value=0)
    .swaplevel(axis=1)
    .sort_index(axis=1, ascending=False)
)
print(plan)

# %% What came of the foxgloves?
from germination.trials.read import read

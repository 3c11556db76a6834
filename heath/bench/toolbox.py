"""The tools of the bench and its keys, as they are named on screen."""

# (name, words on the rail, key, what it does)
TOOLS = (
    ("handles", "Handles", "H", "The points that all lengths are measured from"),
    ("container", "Container", "J", "Set all four handles by one drag over the container"),
    ("plant", "Plant", "B", "Brush what belongs to the plant"),
    ("not-plant", "Not plant", "E", "Brush what does not belong to the plant"),
    ("petal", "Petals", "Q", "Brush what is petal"),
    ("leaf", "Leaves", "D", "Brush what is leaf or stem"),
    ("blooms", "Blooms", "O", "Add, remove and rename blooms"),
    ("stems", "Stems", "T", "Add, move and remove main lines"),
    ("neutral", "White", "G", "Click something white or grey to correct the colour of the light"),
    ("remark", "Remark", "C", "Pin a remark to a spot"),
    ("try", "Try it", "Y", "Cut and move on the picture; nothing is kept"),
)
ROLE_KEYS = (("focal", "F"), ("mass", "M"), ("line", "L"), ("filler", "I"), ("foliage", "G"))
KEYS = (
    ("A", "accept, and go on to the next piece"),
    ("R", "open the return sheet of a marked piece"),
    ("U", "undo the last thing you did, then the one before"),
    ("H", "handles: the first one is chosen"),
    ("Tab, arrows", "go from handle to handle, move one; with Shift further"),
    ("Enter, S", "the handles are right as they are"),
    ("Delete", "on a handle of one of several vessels: it is none of the composition"),
    ("M", "change a mark that is given"),
    ("1 to 6, 0", "lenses: one family, all"),
    ("B, E", "brush what is plant, what is not; [ and ] change the brush"),
    ("Q, D", "brush what is petal, what is leaf; with Shift only under the brush"),
    ("J", "container: one drag from an end of the rim to the opposite end of the foot"),
    ("O", "blooms: click one, or drag on an empty place to add one"),
    ("on blooms", "Del remove, S split, J join, F focal, M mass, L line, I filler, G foliage"),
    ("T", "stems: drag an end or the bend, or draw a new one; Delete removes it"),
    ("Y", "begin or leave a trial: arrows move, D adds, Del removes, arrow down cuts"),
    ("G", "click what is white or grey"),
    ("C", "pin a remark"),
    ("without a mouse", "arrows carry brush, ring or tip; the space bar sets it down"),
    ("W, Z", "where the eye goes, loupe"),
    (".", "whole photograph, or framed on the piece; + and − zoom"),
    ("V, F, X, I", "lay over: as found, the form, the exemplar, the stage before or the front"),
    ("Alt 1 to 9", "while you write a reason: your own phrases"),
    ("N, P", "next piece, piece before"),
    ("K", "show these keys; held, for as long"),
)
